import type { Span } from '../../base/span.ts';
import { heapsApart } from '../../model/recording-part.ts';
import type { Recording } from '../../model/recording.ts';
import { floorPoints, usedAfterPoints, type Floor } from '../floor.ts';
import { externalSeries, residentSeries } from '../outside-heap.ts';
import { findStorms } from '../storms.ts';
import { rememberReading } from '../remember.ts';
import { hasBurst, withoutBursts } from './burst.ts';
import { findExhaustion, type Exhaustion } from './exhaustion.ts';
import { growthBound, type GrowthBound } from './growth-bound.ts';
import {
  BLANK,
  judgeSeries,
  LEAST_POINTS,
  type SeriesContext,
  type SeriesKind,
  type SeriesVerdict,
} from './judge-series.ts';
import { LEAST_WHOLE, whatIsMissing } from './missing.ts';
import { changedThen } from './onset.ts';

/** What memory does, in a word. */
export type VerdictKind = SeriesKind | 'bursting';

/**
 * What the verdict on the heap rests on: its floor, or the most that can be staying where too little is known of the
 * floor.
 */
export type VerdictBasis = 'floor' | 'bound';

/** What a verdict takes over from the judgement of the floor. */
type OfTheFloor = Pick<
  SeriesVerdict,
  | 'slopeBytesPerSec'
  | 'slopeLow'
  | 'slopeHigh'
  | 'pValue'
  | 'swingLowBytes'
  | 'swingHighBytes'
  | 'steps'
  | 'periodMs'
  | 'sinceMs'
  | 'sinceLowMs'
  | 'sinceHighMs'
  | 'soFar'
  | 'mostHiddenPerSec'
>;

/**
 * How memory behaves over a span, with what the judgement rests on. Slopes in bytes per second; NaN where not computed.
 */
export interface Verdict extends OfTheFloor {
  /** Of the collected heap. */
  readonly kind: VerdictKind;
  /** For `unclear`, what is missing; else ''. */
  readonly missing: string;
  readonly basis: VerdictBasis;
  readonly floor: Floor;
  /**
   * Floor at the span's end, in bytes: by the fitted line where memory grows or shrinks, else the median of the time
   * judged.
   */
  readonly floorNowBytes: number;
  /** What else changed when that began, in words; empty where it always did, or nothing is known to have changed. */
  readonly changed: readonly string[];
  /** The most that can be staying, by what enters the old space; null where it is not known. */
  readonly bound: GrowthBound | null;
  /** Milliseconds from the span's end; NaN without a limit or growth. */
  readonly timeToLimitMs: number;
  readonly timeToLimitLowMs: number;
  readonly timeToLimitHighMs: number;
  readonly limitBytes: number;
  /**
   * Name of the heap that reaches its own limit first; '' where each of several heaps has one and none is surely on its
   * way there; null where there is one heap, or the limit is that of all together.
   */
  readonly limitHeap: string | null;
  /** The heap that was full, or had no more memory; null when none was. */
  readonly exhaustion: Exhaustion | null;
  /** When that began; NaN when it did not. */
  readonly exhaustedMs: number;
  /** Memory that the heap holds outside of it, and that of the whole process; null where it is not told. */
  readonly outside: SeriesVerdict | null;
  readonly resident: SeriesVerdict | null;
  /**
   * Milliseconds until the process reaches the limit of its container, by its growth; NaN where it does not grow or no
   * such limit is known.
   */
  readonly residentToLimitMs: number;
}

/** The heap's part of a verdict, without its limits. */
type HeapVerdict = Omit<
  Verdict,
  | 'limitHeap'
  | 'timeToLimitMs'
  | 'timeToLimitLowMs'
  | 'timeToLimitHighMs'
  | 'limitBytes'
  | 'outside'
  | 'resident'
  | 'residentToLimitMs'
  | 'changed'
>;

/** Growth told by the least of windows is believed when the whole collections among them rose by this share of it. */
const WHOLE_ROSE_RATIO = 0.5;
/** Outside the heap the runtime itself takes and gives back as much as this. */
const LEAST_OUTSIDE_BYTES = 1024 * 1024;
/** A floor that may have fallen by this share is not steady. */
const FALL_RATIO = 0.3;

/**
 * Judges the span by the rules and in the order of docs/measures.md: the heap, what it holds outside, and the process.
 * Several heaps are judged by the sum of their floors, and each is held against its own limit. O(n²) in at most 500
 * floor points, for each heap.
 */
export function judge(recording: Recording, span: Span): Verdict {
  const resident = judgeSizes(recording, span, residentSeries);
  const verdict = withLimit(recording, judgeHeap(recording, span));
  const heaps = heapsApart(recording);
  // A limit that was given, as of a container, is that of all heaps together.
  const limits = heaps.length > 1 && Number.isNaN(recording.givenLimitBytes) ? nearestLimit(heaps, verdict, span) : {};
  return {
    ...verdict,
    ...limits,
    changed: isRising(verdict.kind) ? changedThen(recording, span, verdict) : [],
    outside: judgeSizes(recording, span, externalSeries),
    resident,
    residentToLimitMs: residentToLimit(recording, resident),
  };
}

function judgeSizes(recording: Recording, span: Span, seriesOf: typeof externalSeries): SeriesVerdict | null {
  const series = seriesOf(recording, span);
  return series.bytes.length < LEAST_POINTS
    ? null
    : judgeSeries(series, { bornMs: bornMs(recording), leastBytes: LEAST_OUTSIDE_BYTES });
}

function residentToLimit(recording: Recording, resident: SeriesVerdict | null): number {
  const limit = Number.isNaN(recording.givenLimitBytes) ? recording.containerLimitBytes : recording.givenLimitBytes;
  return resident === null || !isRising(resident.kind)
    ? NaN
    : (Math.max(0, limit - resident.levelBytes) / resident.slopeBytesPerSec) * 1000;
}

function nearestLimit(heaps: readonly Recording[], together: Verdict, span: Span): Partial<Verdict> {
  const none = { limitHeap: '', timeToLimitMs: NaN, timeToLimitLowMs: NaN, timeToLimitHighMs: NaN };
  if (!isRising(together.kind)) return none;
  let nearest: Partial<Verdict> = none;
  for (const heap of heaps) {
    const { timeToLimitMs, timeToLimitLowMs, timeToLimitHighMs, limitBytes } = withLimit(heap, judgeHeap(heap, span));
    if (Number.isNaN(timeToLimitMs) || timeToLimitMs >= nearest.timeToLimitMs!) continue;
    nearest = {
      limitHeap: heap.heaps[heap.chosenHeaps![0]!]!.name,
      limitBytes,
      timeToLimitMs,
      timeToLimitLowMs,
      timeToLimitHighMs,
    };
  }
  return nearest;
}

/** True for memory that goes on rising. */
export function isRising(kind: VerdictKind): boolean {
  return kind === 'growing' || kind === 'stepping';
}

function withLimit(recording: Recording, verdict: HeapVerdict): Verdict {
  const limitBytes = recording.limitBytes();
  const toLimit = (slope: number): number =>
    isRising(verdict.kind) && slope > 0 ? (Math.max(0, limitBytes - verdict.floorNowBytes) / slope) * 1000 : NaN;
  return {
    ...verdict,
    limitBytes,
    limitHeap: null,
    timeToLimitMs: toLimit(verdict.slopeBytesPerSec),
    timeToLimitLowMs: toLimit(verdict.slopeHigh),
    timeToLimitHighMs: toLimit(verdict.slopeLow),
    outside: null,
    resident: null,
    residentToLimitMs: NaN,
    changed: [],
  };
}

function judgeHeap(recording: Recording, span: Span): HeapVerdict {
  const exhaustion = findExhaustion(recording, span);
  const floor = floorPoints(recording, span);
  // Once the heap is full its floor is flat because nothing more fits: the trend is that of the time before.
  const resolutionBytes = printedResolution(recording);
  const { judged, series, bursts } =
    exhaustion === null
      ? judgeFloor(recording, floor, { resolutionBytes, bornMs: bornMs(recording) })
      : judgeBefore(recording, span, exhaustion, resolutionBytes);
  const bound = recording.hasClock && exhaustion === null ? growthBound(recording, span) : null;
  const told = kindOf(recording, span, { series, judged, bound, exhaustion, resolutionBytes, bursts });
  const isByBound = told === 'steady' && (series === null || series.kind === 'unclear');
  const missing = told === 'unclear' ? whatIsMissing(recording, { floor, series, bound, exhaustion }) : '';
  const common = { kind: told, missing, floor, bound, exhaustion, exhaustedMs: exhaustion?.fromMs ?? NaN };
  // What the points of a floor that was not enough would say is no part of what the bound says.
  if (isByBound)
    return {
      ...common,
      ...figuresOf(BLANK, told, span),
      basis: 'bound',
      floorNowBytes: bound!.levelBytes,
      mostHiddenPerSec: bound!.mostPerSec,
    };
  return { ...common, ...figuresOf(series ?? BLANK, told, span), basis: 'floor' };
}

function figuresOf(series: SeriesVerdict, kind: VerdictKind, span: Span): OfTheFloor & Pick<Verdict, 'floorNowBytes'> {
  const {
    slopeBytesPerSec,
    slopeLow,
    slopeHigh,
    pValue,
    sinceMs,
    sinceLowMs,
    sinceHighMs,
    mostHiddenPerSec,
    swingLowBytes,
    swingHighBytes,
  } = series;
  return {
    slopeBytesPerSec,
    slopeLow,
    slopeHigh,
    pValue,
    sinceMs,
    sinceLowMs,
    sinceHighMs,
    mostHiddenPerSec,
    swingLowBytes,
    swingHighBytes,
    floorNowBytes: levelNow(series, kind, span),
    steps: kind === 'stepping' ? series.steps : [],
    periodMs: kind === 'stepping' ? series.periodMs : NaN,
    soFar: series.soFar && kind === series.kind,
  };
}

interface Evidence {
  readonly series: SeriesVerdict | null;
  readonly judged: Floor;
  readonly bound: GrowthBound | null;
  readonly exhaustion: Exhaustion | null;
  readonly resolutionBytes: number;
  readonly bursts: boolean;
}

function kindOf(
  recording: Recording,
  span: Span,
  { series, judged, bound, exhaustion, resolutionBytes, bursts }: Evidence,
): VerdictKind {
  const kind = series?.kind ?? 'unclear';
  // Beside a full heap nothing is settled: what the program would keep, had it the room, is not known.
  if (exhaustion !== null) return isRising(kind) ? kind : 'unclear';
  if (isRising(kind) && judged.basis === 'window-minima' && !wholeRose(recording, span, series!)) return 'unclear';
  if (kind === 'unclear' && bound?.decides === true && !mayFall(series, bound)) return 'steady';
  if (bursts && (kind === 'steady' || kind === 'settled')) return 'bursting';
  return kind === 'steady' && hasBurst(recording, span, resolutionBytes) ? 'bursting' : kind;
}

// That nothing enters says nothing of what goes: a floor that was seen, and may be falling, is not called steady.
function mayFall(series: SeriesVerdict | null, bound: GrowthBound): boolean {
  return series !== null && (series.leastHiddenPerSec * series.lengthMs) / 1000 < -FALL_RATIO * bound.levelBytes;
}

// The least of a window holds garbage as well, until a whole collection has looked.
function wholeRose(recording: Recording, span: Span, series: SeriesVerdict): boolean {
  const { tMs, bytes } = floorPoints(recording, span, 1);
  const seconds = (tMs.at(-1)! - tMs[0]!) / 1000;
  return tMs.length >= 2 && bytes.at(-1)! - bytes[0]! >= WHOLE_ROSE_RATIO * series.slopeBytesPerSec * seconds;
}

function levelNow(series: SeriesVerdict, kind: VerdictKind, span: Span): number {
  if (kind === 'unclear') return NaN;
  const follows = kind === 'growing' || kind === 'shrinking';
  return follows
    ? series.levelBytes + series.slopeBytesPerSec * Math.max(0, (span.toMs - series.endMs) / 1000)
    : series.levelBytes;
}

// The coarsest step in which any collection's sizes were printed; 0 when none says.
const printedResolution = rememberReading(({ tables: { collections } }): number => {
  let coarsest = 0;
  for (let row = 0; row < collections.length; row++)
    coarsest = Math.max(coarsest, collections.col.resolutionBytes[row]! || 0);
  return coarsest;
});

interface JudgedFloor {
  readonly judged: Floor;
  /** Null where too few whole collections have looked. */
  readonly series: SeriesVerdict | null;
  /** True when stretches were left out in which the floor was far above its usual level. */
  readonly bursts: boolean;
}

function judgeFloor(recording: Recording, judged: Floor, context: SeriesContext): JudgedFloor {
  const isEnough = recording.hasClock && (judged.wholeCollections >= LEAST_WHOLE || judged.basis === 'all-collections');
  if (!isEnough) return { judged, series: null, bursts: false };
  const calm = withoutBursts(judged, context.resolutionBytes ?? 0);
  return { judged, series: judgeSeries(calm ?? judged, context), bursts: calm !== null };
}

// Until the heap was full, or until collections began to pile up. Those of a full heap give next to nothing back, so
// what the ones before it left behind was live as well: where the floor is too short, every collection is taken. A heap
// that is full has no start-up any more.
function judgeBefore(recording: Recording, span: Span, exhaustion: Exhaustion, resolutionBytes: number): JudgedFloor {
  const ends = [
    exhaustion.fromMs,
    ...findStorms(recording, span)
      .slice(0, 1)
      .map((storm) => storm.fromMs),
  ];
  const floors = ends.flatMap((toMs) => [
    floorPoints(recording, { fromMs: span.fromMs, toMs }),
    usedAfterPoints(recording, { fromMs: span.fromMs, toMs }),
  ]);
  const tried = floors.map((floor) => judgeFloor(recording, floor, { resolutionBytes, bornMs: -Infinity }));
  return tried.find(({ series }) => series !== null && isRising(series.kind)) ?? tried[0]!;
}

/** When the program of a recording began, by its clock: −Infinity where it had run before. */
function bornMs(recording: Recording): number {
  return recording.heaps.every((heap) => heap.startsEmpty) ? 0 : -Infinity;
}
