import { mannKendall } from '../../stats/mann-kendall.ts';
import { median } from '../../stats/quantile.ts';
import { twoSidedP } from '../../stats/normal.ts';
import { studentPoint } from '../../stats/student.ts';
import { theilSen } from '../../stats/theil-sen.ts';
import { Z_95 } from '../../stats/z-95.ts';
import { LineFits } from './line-fit.ts';
import { memoryFactor } from './noise-memory.ts';
import { withoutOutliers } from './regimes.ts';

const LINE_PARAMETERS = 2;
/** Normal point of a two-sided interval of 98 %: one verdict of a hundred may miss on either side. */
const Z_98 = 2.3263478740408408;

/** A line through points, with what is needed to believe it. */
export interface Line {
  readonly slope: number;
  readonly low: number;
  readonly high: number;
  readonly intercept: number;
  readonly pValue: number;
  /** 98 % interval by least squares, without points that stand out: it is known for few points as well. */
  readonly leastSlope: number;
  readonly mostSlope: number;
  readonly points: number;
  readonly fromSec: number;
  readonly toSec: number;
  readonly level: number;
  /** By how much the variance is larger than that of independent points. */
  readonly memory: number;
}

/**
 * The line through points, and how far it can be believed; null where there are too few. `x` in seconds, in order;
 * `noise` is the least deviation that the points have.
 */
export function lineOf(x: Float64Array, y: Float64Array, noise: number): Line | null {
  const test = mannKendall(x, y);
  if (test.kind !== 'trend-test') return null;
  const n = x.length;
  const calm = withoutOutliers(y);
  const fit = new LineFits(x, calm).fit(0, n);
  const memory = memoryFactor(
    calm.map((value, at) => value - fit.atStart - fit.slope * (x[at]! - x[0]!)),
    LINE_PARAMETERS,
  );
  const line = theilSen(x, y, Math.max(memory, test.varianceFactor));
  if (line.kind !== 'slope') return null;
  const deviation = Math.max(noise, Math.sqrt(fit.rss / (n - LINE_PARAMETERS))) * Math.sqrt(memory);
  const error = (studentPoint(Z_98, n - LINE_PARAMETERS) * deviation) / Math.sqrt(fit.xx);
  const walk = wanderingError(x, calm, noise);
  const pValue = Math.min(
    twoSidedP(test.z * Math.sqrt(Math.min(1, test.varianceFactor / memory))),
    twoSidedP(line.slope / walk),
  );
  const [low, high] = [Math.max(line.low, line.slope - Z_95 * walk), Math.min(line.high, line.slope + Z_95 * walk)];
  const most = Math.min(error, Z_98 * walk);
  return {
    slope: line.slope,
    low,
    high,
    intercept: line.intercept,
    pValue,
    leastSlope: fit.slope - most,
    mostSlope: fit.slope + most,
    points: n,
    fromSec: x[0]!,
    toSec: x[n - 1]!,
    level: median(y),
    memory,
  };
}

// Standard error of a slope were the noise a random walk, the worst that noise of any memory can be: then the
// differences of neighbours are all that is known, each varying with the time between. Widened to Student's
// distribution, so that it can be used as a normal one.
function wanderingError(x: Float64Array, y: Float64Array, noise: number): number {
  const n = y.length;
  const seconds = x[n - 1]! - x[0]!;
  const mean = (y[n - 1]! - y[0]!) / seconds;
  let perSecond = 0;
  for (let at = 1; at < n; at++) {
    const passed = x[at]! - x[at - 1]!;
    if (passed > 0) perSecond += (y[at]! - y[at - 1]! - mean * passed) ** 2 / passed / (n - 2);
  }
  const least = (noise * noise * (n - 1)) / seconds;
  return (Math.sqrt(Math.max(least, perSecond) / seconds) * studentPoint(Z_98, n - 2)) / Z_98;
}
