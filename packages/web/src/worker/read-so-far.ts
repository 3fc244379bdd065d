import { type Recording, usedRange } from '@brisk-heron/core';

/** What was read of a recording while the rest of it is still to come: of its last run. */
export interface SoFar {
  /** The least and the most that was used in each of as many equal stretches of the time that was read, in bytes. */
  readonly least: readonly number[];
  readonly most: readonly number[];
  readonly durationMs: number;
  readonly collections: number;
  readonly objects: number;
}

const STRIP_SLICES = 160;
/** A look at what was read may take one part in so many of the time; and is not wanted more often than this. */
const TIMES_LOOKING = 25;
const LEAST_PAUSE_MS = 400;

/** Looks at a recording now and again while it is read. */
export class ReadSoFar {
  private readonly source: { readonly runs: readonly Recording[] };
  private last: SoFar | null = null;
  private nextMs = -Infinity;

  /** `source` is what reads it. */
  constructor(source: { readonly runs: readonly Recording[] }) {
    this.source = source;
  }

  /** What was read by the last look; null before there was anything to draw. */
  get told(): SoFar | null {
    const fromMs = performance.now();
    if (fromMs < this.nextMs) return this.last;
    this.last = this.look() ?? this.last;
    const now = performance.now();
    this.nextMs = now + Math.max(LEAST_PAUSE_MS, TIMES_LOOKING * (now - fromMs));
    return this.last;
  }

  private look(): SoFar | null {
    const recording = this.source.runs.at(-1);
    if (recording === undefined || !(recording.durationMs > 0)) return null;
    const used = usedRange(recording, STRIP_SLICES);
    if (!used.most.some((bytes) => bytes > 0)) return null;
    const { collections, objects } = recording.tables;
    return { ...used, durationMs: recording.durationMs, collections: collections.length, objects: objects.length };
  }
}
