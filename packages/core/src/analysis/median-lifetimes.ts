import type { Span } from '../base/span.ts';
import type { ChargeGroups, OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { estimatedBytes } from '../stats/horvitz-thompson.ts';
import { kaplanMeier, medianClass } from '../stats/kaplan-meier.ts';
import { bornWithin } from './birth-order.ts';
import { lastKnownAlive } from './last-known-alive.ts';
import { noticeGapMs } from './settle-time.ts';
import type { SpanFlow } from './span-flows.ts';

/**
 * The age by which half of a key's bytes are dead. A death is noticed some time after it happened: the median lies
 * between
 * `lowMs`, by when the objects were last known alive, and `highMs`, when their deaths were noticed.
 */
export interface MedianLifetime {
  readonly lowMs: number;
  /** NaN when more than half outlive what could be seen: then `oldestMs` is the age that they have reached. */
  readonly highMs: number;
  readonly oldestMs: number;
}

/**
 * More objects of a span than this are taken at equal strides: a median of so many is known to a seventh of a percent
 * of rank, and ages are read to a sixteenth.
 */
const MOST_OBJECTS = 500_000;
const MOST_OF_ONE_GROUP = 120_000;

/**
 * Median lifetime, by estimated bytes, of what each group of origins allocated in the span: Kaplan–Meier,
 * right-censored at the span's end and where following ended (stats/kaplan-meier.ts), for both ends of the interval in
 * which a death lies. Flows enter as died within their interval; inferred ones within one gap between polls. Null for a
 * group without anything. Ages are read to a sixteenth.
 */
export function medianLifetimes(
  recording: Recording,
  span: Span,
  groups: ChargeGroups,
  { chosen, flows }: { chosen: OriginChoice; flows: readonly SpanFlow[] },
): (MedianLifetime | null)[] {
  const size = groups.keys.length * CLASSES;
  const ages = { diedEarly: new Float64Array(size), diedLate: new Float64Array(size), left: new Float64Array(size) };
  const oldestMs = new Float64Array(groups.keys.length).fill(-1);
  const classes = new AgeClasses();
  const most = groups.keys.length === 1 ? MOST_OF_ONE_GROUP : MOST_OBJECTS;
  addObjects(recording, span, { ...groups, chosen, classes, most }, ages, oldestMs);
  const gapMs = noticeGapMs(recording);
  for (const { originId, fromMs, toMs, bytes, isInferred } of flows) {
    if (chosen !== null && chosen[originId] !== 1) continue;
    const group = groups.groupOf[originId]!;
    const mostMs = isInferred ? Math.min(toMs - fromMs, gapMs || Infinity) : toMs - fromMs;
    ages.diedEarly[group * CLASSES]! += bytes;
    ages.diedLate[group * CLASSES + classes.of(mostMs)]! += bytes;
    oldestMs[group] = Math.max(oldestMs[group]!, mostMs);
  }
  return Array.from(groups.keys, (_, group) =>
    oldestMs[group]! < 0 ? null : medianOf(ages, group, oldestMs[group]!, classes),
  );
}

interface Ages {
  readonly diedEarly: Float64Array;
  readonly diedLate: Float64Array;
  readonly left: Float64Array;
}

/** Whose ages are added up, and of how many objects at most. */
interface Wanted extends ChargeGroups {
  readonly chosen: OriginChoice;
  readonly classes: AgeClasses;
  readonly most: number;
}

function addObjects(
  recording: Recording,
  span: Span,
  { groupOf, chosen, classes, most }: Wanted,
  ages: Ages,
  oldestMs: Float64Array,
): void {
  const { bornMs, bornEarlyMs, bornLateMs, endMs, lost, sizeBytes, probability, originId } =
    recording.tables.objects.col;
  const aliveMs = lastKnownAlive(recording);
  const rows = bornWithin(recording, span);
  const stride = Math.max(1, Math.ceil(rows.length / most));
  for (let place = 0; place < rows.length; place += stride) {
    const row = rows[place]!;
    const born = bornMs[row]!;
    const origin = originId[row]!;
    if (chosen !== null && chosen[origin] !== 1) continue;
    const group = groupOf[origin]!;
    const bytes = estimatedBytes(sizeBytes[row]!, probability[row]!);
    const end = endMs[row]!;
    if (end < span.toMs && lost[row] === 0) {
      // A birth that is told without its bounds was told exactly.
      const age = end - born + (bornEarlyMs[row]! || 0);
      ages.diedLate[group * CLASSES + classes.of(age)]! += bytes;
      ages.diedEarly[group * CLASSES + classes.of(aliveMs(row) - born - (bornLateMs[row]! || 0))]! += bytes;
      if (age > oldestMs[group]!) oldestMs[group] = age;
    } else {
      const age = Math.min(span.toMs, end >= 0 ? end : Infinity) - born;
      ages.left[group * CLASSES + classes.of(age)]! += bytes;
      if (age > oldestMs[group]!) oldestMs[group] = age;
    }
  }
}

function medianOf(
  { diedEarly, diedLate, left }: Ages,
  group: number,
  oldestMs: number,
  classes: AgeClasses,
): MedianLifetime {
  const [from, to] = [group * CLASSES, (group + 1) * CLASSES];
  const early = medianClass(kaplanMeier(diedEarly.subarray(from, to), left.subarray(from, to)));
  const late = medianClass(kaplanMeier(diedLate.subarray(from, to), left.subarray(from, to)));
  return {
    lowMs: early < 0 ? NaN : classes.from(early),
    highMs: late < 0 ? NaN : Math.min(oldestMs, classes.from(late + 1)),
    oldestMs,
  };
}

/**
 * Classes of ages: sixteen to every doubling, from 1/16 ms up; the first takes all that is younger, the last all above.
 */
export const CLASSES = 592;
const LEAST_MS = 1 / 16;

/**
 * Places ages in their classes without a logarithm a row: the exponent of a number and the first four digits of its
 * fraction, which stand side by side in its bits, count such classes.
 */
export class AgeClasses {
  private readonly number = new Float32Array(1);
  private readonly bits = new Uint32Array(this.number.buffer);
  private readonly first = this.bitsOf(LEAST_MS);

  /** Class of an age in milliseconds; 0 for none and for NaN. */
  of(ageMs: number): number {
    return ageMs >= LEAST_MS ? Math.min(CLASSES - 1, this.bitsOf(ageMs) - this.first + 1) : 0;
  }

  /** Least age of a class. */
  from(at: number): number {
    if (at === 0) return 0;
    this.bits[0] = (at - 1 + this.first) << 19;
    return this.number[0]!;
  }

  private bitsOf(value: number): number {
    this.number[0] = value;
    return this.bits[0]! >>> 19;
  }
}
