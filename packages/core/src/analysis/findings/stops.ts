import { contains, spanLengthMs } from '../../base/span.ts';
import { formatDuration, formatPercent } from '../../base/units.ts';
import { median, nearestRank } from '../../stats/quantile.ts';
import { RangeRanks } from '../../stats/range-ranks.ts';
import { lostTime } from '../lost-time.ts';
import { rememberReading } from '../remember.ts';
import { type RuleInput, type Finding, type Moment, momentsOf, pausedMs, pauseMoments, rowsAt } from './finding.ts';
import { programCollections } from './program-collections.ts';

/** A kind carries the long pauses when it makes up this share of them. */
const MOST_OF_THEM_RATIO = 0.8;
const LEAST_LONG = 3;
/** Times are printed in hundredths of a second: shorter collections tell nothing about processors. */
const LEAST_REAL_MS = 50;
/** Less processor time than this of the time that passed: the collector's threads waited. */
const STARVED_RATIO = 0.5;
const LEAST_STARVED = 3;
const LEAST_REACH_MS = 10;
const REACH_RATIO = 0.2;
const LEAST_SLOW = 3;
/** A tenth of the time is much. */
const MUCH_TIME_RATIO = 0.1;
const OFTEN_MS = 100;
/** Collections that come often and cost next to nothing are no problem. */
const SOME_TIME_RATIO = 0.05;
const LEAST_OFTEN = 20;

/** Pauses over the goal that are nearly all of one kind. */
export function longPauses(input: RuleInput): Finding[] {
  const { recording, pauses, goalMs } = input;
  const { durationMs, labelId } = recording.tables.pauses.col;
  const long: number[] = [];
  for (let place = 0; place < pauses.rows.length; place++)
    if (pauses.durationMs[place]! > goalMs) long.push(pauses.rows[place]!);
  if (long.length < LEAST_LONG) return [];
  const byLabel = new Map<number, number[]>();
  for (const row of long) {
    const rows = byLabel.get(labelId[row]!);
    if (rows === undefined) byLabel.set(labelId[row]!, [row]);
    else rows.push(row);
  }
  const [label, rows] = [...byLabel].sort((a, b) => b[1].length - a[1].length)[0]!;
  if (rows.length < MOST_OF_THEM_RATIO * long.length) return [];
  const name = recording.strings.text(label);
  const all = rows.length === long.length;
  const longestMs = rows.reduce((most, row) => Math.max(most, durationMs[row]!), 0);
  return [
    {
      code: 'long-pauses',
      sentence: `${all ? `All ${long.length}` : `${rows.length} of ${long.length}`} pauses over ${formatDuration(goalMs)} are “${name}”, the longest ${formatDuration(longestMs)}.`,
      rule: `three or more pauses are over ${formatDuration(goalMs)}, and at least 80 % of them have one label`,
      certainty: 'certain',
      advice: adviceForLabel(name),
      costMs: rows.reduce((sum, row) => sum + durationMs[row]!, 0),
      moments: pauseMoments(input, rows),
    },
  ];
}

function adviceForLabel(name: string): string {
  if (/Remark|remark/.test(name))
    return 'Remark processes references and unloads classes: count weak and soft references and finalizers, and let references be processed in parallel.';
  if (/^Full GC|Pause Full|Mark-Compact|Mark-sweep/.test(name))
    return 'A collection of the whole heap in one stop is as long as what lives is large: avoid it (see its causes), or take a collector that works beside the program.';
  if (/Mixed|mixed/.test(name))
    return 'Mixed collections take too many old regions at once: let the work be spread over more of them.';
  if (/Young|Scavenge|GC \(|GC pause/.test(name))
    return 'A young collection is as long as what survives it is large: see what survives, and make the young space smaller or let it survive less.';
  return 'Go to the longest one and see what it did.';
}

// Places of the program's collections that took so long by the printed times.
const longByClock = rememberReading((recording): Uint32Array => {
  const { realMs } = recording.tables.collections.col;
  const { rows } = programCollections(recording);
  const places = new Uint32Array(rows.length);
  let count = 0;
  for (let place = 0; place < rows.length; place++) if (realMs[rows[place]!]! >= LEAST_REAL_MS) places[count++] = place;
  return places.slice(0, count);
});

/** A collector whose threads did not get a processor. */
export function starvedThreads(input: RuleInput): Finding[] {
  const { userMs, sysMs, realMs } = input.recording.tables.collections.col;
  const told = rowsAt(input, longByClock(input.recording));
  const starved = told.filter((row) => userMs[row]! + sysMs[row]! < STARVED_RATIO * realMs[row]!);
  if (starved.length < LEAST_STARVED || starved.length < 0.1 * told.length) return [];
  const ratio = median(starved.map((row) => (userMs[row]! + sysMs[row]!) / realMs[row]!));
  return [
    {
      code: 'starved',
      sentence: `In ${starved.length} of ${told.length} collections over ${LEAST_REAL_MS} ms the collector’s threads ran for ${formatPercent(ratio)} of the time that passed: they waited for a processor.`,
      rule: 'user and system time together are under half of the real time, in three or more collections of at least 50 ms (times are printed in steps of 10 ms)',
      certainty: 'likely',
      advice:
        'The machine or the container has too few processors for its load, or memory is being swapped: compare with the container’s CPU limit, and look at what else ran then.',
      costMs: pausedMs(input, starved),
      moments: momentsOf(input, starved),
    },
  ];
}

/** Threads of the program that take long to stop. */
export function slowToStop(input: RuleInput): Finding[] {
  const { recording, span } = input;
  const { safepoints } = recording.tables;
  const { startMs, reachMs, totalMs } = safepoints.col;
  const rows: number[] = [];
  for (let row = 0; row < safepoints.length; row++) {
    if (
      contains(span, startMs[row]!) &&
      reachMs[row]! >= LEAST_REACH_MS &&
      reachMs[row]! >= REACH_RATIO * totalMs[row]!
    )
      rows.push(row);
  }
  if (rows.length < LEAST_SLOW) return [];
  const sorted = Float64Array.from(rows, (row) => reachMs[row]!).sort();
  return [
    {
      code: 'slow-to-stop',
      sentence: `${rows.length} times it took ${formatDuration(nearestRank(sorted, 0.5))} (median; at most ${formatDuration(sorted[sorted.length - 1]!)}) until every thread had stopped, before any work began.`,
      rule: 'three or more stops took at least 10 ms, and a fifth of their length, to reach',
      certainty: 'certain',
      advice:
        'A thread was in a long loop without a check, in a large copy, or waited for a processor or for memory that was swapped out: the JVM can name such threads in its safepoint log.',
      costMs: rows.reduce((sum, row) => sum + reachMs[row]!, 0),
      moments: rows.map((row): Moment => ({
        fromMs: startMs[row]!,
        toMs: startMs[row]! + totalMs[row]!,
        pauseRow: -1,
      })),
    },
  ];
}

/** Stops that have nothing to do with the collector. */
export function otherStops(input: RuleInput): Finding[] {
  const { recording, span } = input;
  const { safepoints } = recording.tables;
  const { startMs, totalMs, operationId } = safepoints.col;
  const isOther = (row: number, operation: string): boolean =>
    recording.heaps[safepoints.col.heapId[row]!]?.traits.collectorOperations?.test(operation) !== true;
  const rows: number[] = [];
  for (let row = 0; row < safepoints.length; row++) {
    if (!(totalMs[row]! >= LEAST_REACH_MS) || !contains(span, startMs[row]!)) continue;
    const operation = recording.strings.text(operationId[row]!);
    if (operation !== '' && isOther(row, operation)) rows.push(row);
  }
  if (rows.length < LEAST_SLOW) return [];
  const costMs = rows.reduce((sum, row) => sum + totalMs[row]!, 0);
  const collectingMs = input.pauses.durationMs.reduce((sum, ms) => sum + ms, 0);
  if (costMs < REACH_RATIO * collectingMs) return [];
  const names = [...new Set(rows.map((row) => recording.strings.text(operationId[row]!)))];
  return [
    {
      code: 'other-stops',
      sentence: `${rows.length} stops of at least ${LEAST_REACH_MS} ms were not for collecting (${names.slice(0, 3).join(', ')}): ${formatDuration(costMs)}.`,
      rule: 'three or more safepoints of at least 10 ms name no operation of the collector, and together they cost a fifth of what collecting does',
      certainty: 'certain',
      advice:
        'The program stops for something else: see what asks for these operations (thread dumps, deoptimisation, class redefinition, monitors).',
      costMs,
      moments: rows.map((row): Moment => ({
        fromMs: startMs[row]!,
        toMs: startMs[row]! + totalMs[row]!,
        pauseRow: -1,
      })),
    },
  ];
}

/** Collecting takes much of the program's time. */
export function muchTime(input: RuleInput): Finding[] {
  const { recording, span, pauses } = input;
  const lost = lostTime(recording, span);
  const insideMs = lost.lostMs;
  const ratio = insideMs / spanLengthMs(span);
  const seen = pauses.rows.length + recording.tables.stalls.length + recording.tables.pacing.length;
  if (!recording.hasClock || seen < LEAST_LONG || !(ratio > MUCH_TIME_RATIO)) return [];
  const waits =
    lost.threads === 0
      ? ''
      : ` Threads that waited for memory count by their share of the ${lost.threads} that ever did; ${lost.worstThread} lost ${formatPercent(lost.worstRatio)} of its time.`;
  return [
    {
      code: 'much-time',
      sentence: `Collecting stopped the program for ${formatPercent(ratio)} of the time: ${formatDuration(insideMs)} of ${formatDuration(spanLengthMs(span))}.${waits}`,
      rule: 'pauses, other stops and waits for memory take over a tenth of the span',
      certainty: 'certain',
      advice:
        'Lower the rate of allocation (who allocates?), or give the heap more room so that collections come less often.',
      costMs: insideMs,
      moments: [{ ...span, pauseRow: -1 }],
    },
  ];
}

// How long after the one before each of the program's collections begins, by its place.
const gapRanks = rememberReading((recording): RangeRanks => {
  const { tMs } = programCollections(recording);
  return new RangeRanks(tMs.map((ms, place) => (place === 0 ? 0 : ms - tMs[place - 1]!)));
});

/** Collections that come one upon the other. */
export function tooOften(input: RuleInput): Finding[] {
  const [first, end] = input.places;
  if (!input.recording.hasClock || end - first < LEAST_OFTEN) return [];
  const gapMs = gapRanks(input.recording).median(first + 1, end);
  if (
    !(gapMs < OFTEN_MS) ||
    !(lostTime(input.recording, input.span).pausedMs / spanLengthMs(input.span) > SOME_TIME_RATIO)
  )
    return [];
  return [
    {
      code: 'often',
      sentence: `Half of the ${end - first} collections begin within ${formatDuration(gapMs)} of the one before.`,
      rule: 'the median time from one collection to the next is under 100 ms, over at least twenty, and pauses take over a twentieth of the span',
      certainty: 'certain',
      advice:
        'The young space (or the heap) is small for this rate of allocation: more room makes collections rarer, less churn makes them unneeded.',
      // Its cost is that of what other findings name.
      costMs: 0,
      moments: [{ ...input.span, pauseRow: -1 }],
    },
  ];
}
