import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { isMainThread } from 'node:worker_threads';
import type { LineSink, OwnLine } from '../line-sink.ts';

/** Environment variable that names another build of the addon, for its own tests. */
const ADDON_VARIABLE = 'BRISK_HERON_ADDON';

/** How one heap is watched: members as in `addon/heap-recorder.h`. */
export interface HeapSettings {
  readonly intervalBytes: number;
  readonly bufferIntervalBytes: number;
  /** Share of the thread's processor time that reading samples may take. */
  readonly share: number;
  readonly floorEveryMs: number;
  readonly floorShare: number;
  readonly watchLimit: boolean;
  readonly isMain: boolean;
  readonly mayHideGc: boolean;
  readonly mayWiden: boolean;
}

/** The addon (`addon/`), one instance an isolate. Times are milliseconds from `open`. */
export interface Addon {
  /**
   * @throws when the file cannot be opened; `argv` where the heap is to be named after the script that the runtime adds
   * to it.
   */
  open(file: string, heap: string, ownDirectory: string, settings: HeapSettings, argv: readonly string[] | null): void;
  now(): number;
  epochMs(): number;
  /** Whole lines with their newlines. */
  add(lines: string): void;
  start(): boolean;
  tick(): void;
  flush(): boolean;
  force(): void;
  /**
   * Every object of the heap into a new file; answers why that could not be, or ''. `keepIds`: objects keep their
   * numbers until the next one.
   */
  writeSnapshot(file: string, keepIds: boolean): string;
  /** Whether births are told from now on; what was told stays followed. */
  watchBirths(on: boolean): void;
  /** What is followed is let go, and what is born from now on is followed anew. */
  startOver(): void;
  followStore(store: object, isBuffer: boolean, bytes: number): void;
  takeFrames(): (number | string)[];
  finish(reason: string): void;
  /** After `finish`, where the process goes on unrecorded. */
  retire(): void;
  /** Of the main thread: called with the name of a signal that ends the process next. */
  onSignal(listener: (signal: string) => void): void;
  /** Keeps a text for the workers of the process. */
  leaveSettings(text: string): void;
  leftSettings(): string;
  /** True for a heap of this process that was opened, by its name in the stream. */
  isOpened(heap: string): boolean;
}

/** Name of the addon's file for an ABI of Node on this kind of machine. */
function addonName(abi: string = process.versions.modules): string {
  return `brisk-heron-${abi}.node`;
}

/** Where the addon may lie, the first that is there: built here, or carried along for this kind of machine. */
function addonFile(abi?: string): string | null {
  const given = process.env[ADDON_VARIABLE];
  if (given !== undefined && given !== '') return given;
  const places = [
    join(__dirname, '..', addonName(abi)),
    join(__dirname, '../../prebuilt', `${process.platform}-${process.arch}`, addonName(abi)),
  ];
  return places.find((file) => existsSync(file)) ?? null;
}

/** The addon, or why it cannot be used. */
export type LoadedAddon = { readonly addon: Addon } | { readonly addon: null; readonly why: string };

/** The addon for this Node; null, with why, where there is none that loads. */
export function loadAddon(): LoadedAddon {
  const file = addonFile();
  if (file === null)
    return {
      addon: null,
      why: `there is none for ABI ${process.versions.modules} on ${process.platform}-${process.arch}`,
    };
  try {
    const loaded = { exports: {} };
    process.dlopen(loaded, file);
    return { addon: loaded.exports as Addon };
  } catch (error) {
    return { addon: null, why: String(error instanceof Error ? error.message : error).slice(0, 200) };
  }
}

/**
 * The settings of this isolate: those of the environment or, for a worker that was given an environment of its own,
 * those of its process, which the main thread leaves in the addon.
 */
export function handDown(loaded: LoadedAddon, settings: string | undefined): string | undefined {
  if (loaded.addon === null) return settings;
  if (isMainThread) loaded.addon.leaveSettings(settings ?? '');
  return isMainThread ? settings : (settings ?? loaded.addon.leftSettings());
}

/** Hands lines to the addon, whose thread writes them. */
export class AddonLines implements LineSink {
  private readonly addon: Addon;
  private readonly heap: string;

  constructor(addon: Addon, heap: string) {
    this.addon = addon;
    this.heap = heap;
  }

  add(line: OwnLine): void {
    const { k, ...rest } = line;
    this.addon.add(`${JSON.stringify({ k, h: this.heap, ...rest })}\n`);
  }

  flush(): void {
    this.addon.flush();
  }
}
