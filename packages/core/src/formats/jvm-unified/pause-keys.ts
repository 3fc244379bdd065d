import type { Recording } from '../../model/recording.ts';

/** Collections with an id below the last one's, at a later time, that make a log one of two programs. */
const LEAST_MIXED = 3;

/**
 * Knows the pauses of a run, so that a block of lines that a file holds twice counts once, and so that two programs
 * whose lines nothing tells apart are noticed. Constant time for a pause; nothing is kept until time goes back.
 */
export class PauseKeys {
  private readonly recording: Recording;
  private latestMs = -Infinity;
  private behind = false;
  private known: Set<string> | null = null;
  private lastGcId = -1;
  private lastEndMs = -Infinity;
  private mixed = 0;

  constructor(recording: Recording) {
    this.recording = recording;
  }

  /** True for a pause that was told before: its time lies behind others, and one with its label and length is there. */
  isRepeated(endMs: number, durationMs: number, labelId: number): boolean {
    const ahead = endMs > this.latestMs;
    if (ahead || (endMs === this.latestMs && !this.behind)) {
      this.latestMs = endMs;
      this.behind = false;
      this.known?.add(this.keyOf(endMs - durationMs, durationMs, labelId));
      return false;
    }
    this.behind = true;
    this.known ??= this.allKnown();
    const key = this.keyOf(endMs - durationMs, durationMs, labelId);
    if (this.known.has(key)) return true;
    this.known.add(key);
    return false;
  }

  /** A collection that stopped the program: ids grow with time in one program. */
  sawCollection(gcId: number, endMs: number): void {
    if (gcId < this.lastGcId && endMs > this.lastEndMs) this.mixed++;
    this.lastGcId = gcId;
    this.lastEndMs = endMs;
  }

  /** True when ids went back so often that the lines must be of several programs. */
  get areMixed(): boolean {
    return this.mixed >= LEAST_MIXED;
  }

  private allKnown(): Set<string> {
    const { length, col } = this.recording.tables.pauses;
    const keys = new Set<string>();
    for (let row = 0; row < length; row++)
      keys.add(this.keyOf(col.startMs[row]!, col.durationMs[row]!, col.labelId[row]!));
    return keys;
  }

  private keyOf(startMs: number, durationMs: number, labelId: number): string {
    return `${startMs} ${durationMs} ${labelId}`;
  }
}
