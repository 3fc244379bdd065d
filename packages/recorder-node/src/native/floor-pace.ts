/** What a forced collection costs is the median of the last few: one that met a busy machine must not blind the recorder for a minute. */
const COSTS_KEPT = 3;

/**
 * Says when the recorder may force a whole collection, so that the floor is known: when the program has made none itself for a while, and
 * never more often than a share of the processor time allows.
 */
export class FloorPace {
  private readonly everyMs: number;
  private readonly shareRatio: number;
  private nextMs: number;
  private costsMs: readonly number[] = [];

  /** `everyMs` 0 never forces any. */
  constructor(everyMs: number, shareRatio: number) {
    this.everyMs = everyMs;
    this.shareRatio = shareRatio;
    this.nextMs = everyMs;
  }

  /** True when one is due; `lastWholeMs` is when the last whole collection ended, whoever made it. */
  isDue(nowMs: number, lastWholeMs: number): boolean {
    return this.everyMs > 0 && nowMs >= this.nextMs && nowMs - lastWholeMs >= this.everyMs;
  }

  spent(nowMs: number, costMs: number): void {
    this.costsMs = [...this.costsMs, costMs].slice(-COSTS_KEPT);
    this.nextMs = nowMs + Math.max(this.everyMs, lowerMedian(this.costsMs) / this.shareRatio);
  }
}

/** The middle value, of an even number the lower; 0 of none. */
export function lowerMedian(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[(values.length - 1) >> 1] ?? 0;
}
