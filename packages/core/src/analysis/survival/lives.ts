import type { Span } from '../../base/span.ts';
import type { OriginChoice } from '../../model/charge.ts';
import type { Recording } from '../../model/recording.ts';
import { bytesVariance, countVariance, estimatedBytes } from '../../stats/horvitz-thompson.ts';
import { lastKnownAlive } from '../last-known-alive.ts';
import { noticeGapMs } from '../settle-time.ts';
import type { SpanFlow } from '../span-flows.ts';
import { AgeClasses } from '../median-lifetimes.ts';
import { type AgeKind, type AgeMeter, ageMeter } from './age-meter.ts';

/** What lives are weighted by. */
export type LifeWeight = 'bytes' | 'objects';

/**
 * Lives in a span as columns, one row an object or a flow. Each came into sight at an age (`entry`), and left at
 * another: it died between two ages (`early`, `late`), about in the `middle` of them, or was still alive at `late` when it
 * was seen last (`dead` 0; the three are one then).
 * `weight` is what it stands for, `variance` what it adds to the variance of a sum of weights.
 */
export interface Lives {
  readonly length: number;
  readonly entry: Uint16Array;
  readonly early: Uint16Array;
  readonly middle: Uint16Array;
  readonly late: Uint16Array;
  readonly dead: Uint8Array;
  readonly weight: Float64Array;
  readonly variance: Float64Array;
  readonly originId: Uint32Array;
  /** Rows that single objects have; those behind are flows. */
  readonly objects: number;
}

/** Ages are classed by what they are counted in: one, sixteen to a doubling above. */
const UNITS: Readonly<{ [K in AgeKind]: number }> = { seconds: 1, collections: 1 / 16, allocated: 1 };
const CLASS_OF = new AgeClasses();

/** Class of an age of a kind: milliseconds, collections, bytes. */
export function classOfAge(kind: AgeKind, age: number): number {
  return CLASS_OF.of(age * UNITS[kind]);
}

/** Least age of a class, in what its kind counts. */
export function ageOfClass(kind: AgeKind, at: number): number {
  return CLASS_OF.from(at) / UNITS[kind];
}

/**
 * More objects than this are taken at equal strides, as if fewer had been sampled: their errors tell. A share of so many
 * is known to a thousandth.
 */
const MOST_OBJECTS = 400_000;

/** What lives are asked for. */
export interface LivesAsk {
  readonly span: Span;
  readonly kind: AgeKind;
  readonly by: LifeWeight;
  readonly chosen: OriginChoice;
  readonly flows: readonly SpanFlow[];
}

/**
 * The lives that were seen in a span: of objects born in it, and of those born before that it found alive, which come
 * into sight at the age they had then (delayed entry). What outlives the span, or is no longer followed, is censored.
 * Objects whose source tells no count are left out of lives by objects. One pass over objects and flows.
 */
export function livesOf(recording: Recording, { span, kind, by, chosen, flows }: LivesAsk): Lives {
  const { objects, origins } = recording.tables;
  const stride = Math.max(1, Math.ceil(objects.length / MOST_OBJECTS));
  const lives = emptyLives(Math.ceil(objects.length / stride) + flows.length);
  const heapOf = origins.col.heapId;
  const meter = ageMeter(recording, kind);
  const aliveMs = lastKnownAlive(recording);
  const { bornMs, bornEarlyMs, bornLateMs, endMs, lost, sizeBytes, probability, originId } = objects.col;
  let length = 0;
  for (let row = 0; row < objects.length; row += stride) {
    const [born, origin] = [bornMs[row]!, originId[row]!];
    const end = Number.isNaN(endMs[row]!) ? Infinity : endMs[row]!;
    if (born >= span.toMs || end <= span.fromMs || (chosen !== null && chosen[origin] !== 1)) continue;
    if (by === 'objects' && Number.isNaN(probability[row]!)) continue;
    const p = probability[row]! / stride;
    const size = Number.isNaN(p) ? sizeBytes[row]! * stride : sizeBytes[row]!;
    const heap = heapOf[origin]!;
    const isDead = end < span.toMs && lost[row] === 0;
    lives.entry[length] = born < span.fromMs ? classOfAge(kind, meter(heap, born, span.fromMs)) : 0;
    const seenMs = Math.min(end, span.toMs);
    const late = meter(heap, born - (isDead ? bornEarlyMs[row]! || 0 : 0), seenMs);
    const early = isDead ? meter(heap, born + (bornLateMs[row]! || 0), Math.max(born, aliveMs(row))) : late;
    // One that was found alive where the span begins died after that.
    setEnd(lives, length, { kind, early: Math.min(late, Math.max(0, early)), late });
    lives.dead[length] = isDead ? 1 : 0;
    lives.weight[length] = by === 'bytes' ? estimatedBytes(size, p) : 1 / p;
    lives.variance[length] = by === 'bytes' ? bytesVariance(size, p) : countVariance(p);
    lives.originId[length++] = origin;
  }
  const ofObjects = length;
  if (by === 'bytes') length = addFlows(recording, { lives, length, meter }, { span, kind, by, chosen, flows });
  return { ...lives, length, objects: ofObjects };
}

// What came and went within a stretch lived no longer than that; what is inferred, no longer than between two looks.
function addFlows(
  recording: Recording,
  { lives, length, meter }: { readonly lives: LivesColumns; readonly length: number; readonly meter: AgeMeter },
  { kind, chosen, flows }: LivesAsk,
): number {
  const gapMs = noticeGapMs(recording);
  const heapOf = recording.tables.origins.col.heapId;
  let at = length;
  for (const { originId, fromMs, toMs, bytes, isInferred } of flows) {
    if (bytes <= 0 || (chosen !== null && chosen[originId] !== 1)) continue;
    const mostMs = isInferred ? Math.min(toMs - fromMs, gapMs || Infinity) : toMs - fromMs;
    lives.entry[at] = 0;
    setEnd(lives, at, { kind, early: 0, late: meter(heapOf[originId]!, fromMs, fromMs + mostMs) });
    lives.dead[at] = 1;
    lives.weight[at] = bytes;
    // What was not seen one by one is certain to its source; what is inferred, by half of itself.
    lives.variance[at] = isInferred ? (INFERRED_RATIO * bytes) ** 2 : 0;
    lives.originId[at++] = originId;
  }
  return at;
}

type LivesColumns = Omit<Lives, 'length' | 'objects'>;

function setEnd(
  { entry, early, middle, late }: LivesColumns,
  row: number,
  ages: { readonly kind: AgeKind; readonly early: number; readonly late: number },
): void {
  const least = entry[row]!;
  early[row] = Math.max(least, classOfAge(ages.kind, ages.early));
  middle[row] = Math.max(least, classOfAge(ages.kind, (ages.early + ages.late) / 2));
  late[row] = Math.max(least, classOfAge(ages.kind, ages.late));
}

const INFERRED_RATIO = 0.5;

function emptyLives(most: number): LivesColumns {
  return {
    entry: new Uint16Array(most),
    early: new Uint16Array(most),
    middle: new Uint16Array(most),
    late: new Uint16Array(most),
    dead: new Uint8Array(most),
    weight: new Float64Array(most),
    variance: new Float64Array(most),
    originId: new Uint32Array(most),
  };
}
