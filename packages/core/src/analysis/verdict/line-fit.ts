/** A least-squares line over points `[from, to)` and what is left of them around it. */
export interface LineFit {
  readonly slope: number;
  /** Value at the first point's x. */
  readonly atStart: number;
  readonly atEnd: number;
  /** Sum of squared residuals. */
  readonly rss: number;
  readonly points: number;
  /** Sum of squared deviations of x. */
  readonly xx: number;
}

/**
 * Fits lines to any stretch of a series in constant time, by running sums over columns shifted to their first value.
 * O(n) to make.
 */
export class LineFits {
  private readonly x: Float64Array;
  private readonly y: Float64Array;
  private readonly sums: Float64Array;

  constructor(x: Float64Array, y: Float64Array) {
    this.x = x;
    this.y = y;
    const sums = new Float64Array((x.length + 1) * 5);
    for (let at = 0; at < x.length; at++) {
      const [dx, dy, from, to] = [x[at]! - x[0]!, y[at]! - y[0]!, at * 5, at * 5 + 5];
      sums[to] = sums[from]! + dx;
      sums[to + 1] = sums[from + 1]! + dy;
      sums[to + 2] = sums[from + 2]! + dx * dx;
      sums[to + 3] = sums[from + 3]! + dx * dy;
      sums[to + 4] = sums[from + 4]! + dy * dy;
    }
    this.sums = sums;
  }

  /** Sum of squared deviations of points `[from, to)` from their mean. */
  levelRss(from: number, to: number): number {
    const sum = (place: number): number => this.sums[to * 5 + place]! - this.sums[from * 5 + place]!;
    return Math.max(0, sum(4) - sum(1) ** 2 / (to - from));
  }

  /** Line through points `[from, to)`; flat where they share one x. */
  fit(from: number, to: number): LineFit {
    const points = to - from;
    const sum = (place: number): number => this.sums[to * 5 + place]! - this.sums[from * 5 + place]!;
    const [meanX, meanY] = [sum(0) / points, sum(1) / points];
    const xx = Math.max(0, sum(2) - points * meanX * meanX);
    const xy = sum(3) - points * meanX * meanY;
    const yy = Math.max(0, sum(4) - points * meanY * meanY);
    const slope = xx > 0 ? xy / xx : 0;
    const at = (x: number): number => this.y[0]! + meanY + slope * (x - this.x[0]! - meanX);
    return {
      slope,
      atStart: at(this.x[from]!),
      atEnd: at(this.x[to - 1]!),
      rss: Math.max(0, yy - slope * xy),
      points,
      xx,
    };
  }
}
