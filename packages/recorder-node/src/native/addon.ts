import { existsSync } from 'node:fs';
import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';
import type { OwnLine } from '../line-sink.ts';

/** The addon (`addon/`), one instance an isolate. Times are milliseconds from `open`. */
export interface Addon {
  /** @throws when the file cannot be opened. */
  open(file: string, heap: string, ownDirectory: string, intervalBytes: number, bufferIntervalBytes: number, share: number, watchLimit: boolean, isMain: boolean): void;
  now(): number;
  epochMs(): number;
  /** Whole lines with their newlines. */
  add(lines: string): void;
  start(): boolean;
  tick(): void;
  flush(): boolean;
  force(mayHideGc: boolean): number;
  lastWholeMs(): number;
  followStore(store: object, isBuffer: boolean, bytes: number): void;
  takeFrames(): (number | string)[];
  finish(reason: string): void;
}

/** Name of the addon's file for an ABI of Node on this kind of machine. */
export function addonName(abi: string = process.versions.modules): string {
  return `brisk-heron-${abi}.node`;
}

/** Where the addon may lie, the first that is there: built here, or carried along for this kind of machine. */
export function addonFile(abi?: string): string | null {
  const places = [new URL(`../${addonName(abi)}`, import.meta.url), new URL(`../../prebuilt/${process.platform}-${process.arch}/${addonName(abi)}`, import.meta.url)];
  return places.map((place) => fileURLToPath(place)).find((file) => existsSync(file)) ?? null;
}

/** The addon for this Node; null, with why, where there is none that loads. */
export function loadAddon(): { readonly addon: Addon } | { readonly addon: null; readonly why: string } {
  const file = addonFile();
  if (file === null) return { addon: null, why: `there is none for ABI ${process.versions.modules} on ${process.platform}-${process.arch}` };
  try {
    return { addon: createRequire(import.meta.url)(file) as Addon };
  } catch (error) {
    return { addon: null, why: String(error instanceof Error ? error.message : error).slice(0, 200) };
  }
}

/** Hands lines to the addon, whose thread writes them. */
export class AddonLines {
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
