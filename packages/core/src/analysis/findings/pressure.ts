import { firstPlaceFrom } from '../../base/binary-search.ts';
import type { Span } from '../../base/span.ts';
import { formatBytes, formatClock, formatDuration, formatPercent } from '../../base/units.ts';
import { heapsApart } from '../../model/recording-part.ts';
import type { Recording } from '../../model/recording.ts';
import { CollectionFlag, Scope } from '../../model/tables.ts';
import { median } from '../../stats/quantile.ts';
import { RangeLargest } from '../../stats/range-largest.ts';
import { floorPoints } from '../floor.ts';
import { oldSpaceCycles } from '../old-space.ts';
import { rememberReading } from '../remember.ts';
import { findStorms } from '../storms.ts';
import { type RuleInput, type Finding, momentsOf, pausedMs, rowsByCause, rowsFlagged } from './finding.ts';
import { programCollections } from './program-collections.ts';

/** A third: below it promotion is mostly of what lives on. */
const DIES_SOON_RATIO = 1 / 3;
/** What is promoted must matter: as much as a tenth of what the heap held at most. */
const PROMOTED_RATIO = 0.1;
/** With less than this free after a whole collection, one burst of allocation fills the heap. */
const NEAR_LIMIT_RATIO = 0.8;
const LEAST_FLOOR_POINTS = 3;
/** Capacity that changes at more than a tenth of the collections is not settled. */
const RESIZE_RATIO = 0.1;
const LEAST_RESIZES = 5;
/** A capacity is printed without a survivor space, whose size is adapted all the time: that alone is no resizing. */
const RESIZED_FACTOR = 1.5;
const HUMONGOUS = 'G1 Humongous Allocation';
const LEAST_HUMONGOUS = 3;

/** Whole-heap collections that pile up. */
export function storms(input: RuleInput): Finding[] {
  const { recording, span } = input;
  const found = findStorms(recording, span);
  if (found.length === 0) return [];
  const { usedBeforeBytes, usedAfterBytes, startMs } = recording.tables.collections.col;
  const rows = found.flatMap((storm) => storm.rows);
  const gain = median(
    rows.map((row) => 1 - usedAfterBytes[row]! / usedBeforeBytes[row]!).filter((ratio) => !Number.isNaN(ratio)),
  );
  const gaps = found.flatMap((storm) => storm.rows.slice(1).map((row, n) => startMs[row]! - startMs[storm.rows[n]!]!));
  const explicit = rows.filter((row) => recording.tables.collections.col.flags[row]! & CollectionFlag.explicit).length;
  return [
    {
      code: 'storm',
      sentence: `Whole-heap collections ${Number.isNaN(gain) ? '' : `give back ${formatPercent(Math.max(0, gain))} and `}come every ${formatDuration(median(gaps))} since ${formatClock(found[0]!.fromMs)}${found.length > 1 ? `, in ${found.length} storms` : ''}: ${rows.length} of them.`,
      rule: 'three or more whole-heap collections in a row, each sooner than 20 times the last one’s pause, or together over 20 % of the time, or each giving back under 5 %',
      certainty: 'certain',
      advice:
        explicit > rows.length / 2
          ? 'Most of them were asked for by the program: find who calls for collections.'
          : gain < 0.05
            ? 'The heap is full of live objects: see whether memory is growing before giving it more room.'
            : 'They do give memory back: the heap, or its old part, is too small for what lives at once. Give it more room, or allocate less that lives through young collections.',
      costMs: pausedMs(input, rows),
      moments: found.map((storm) => ({
        fromMs: storm.fromMs,
        toMs: storm.toMs,
        pauseRow: input.collections.pauseOf[storm.rows[0]!]!,
      })),
    },
  ];
}

// What was used before each of the program's collections.
const largestUse = rememberReading((recording): RangeLargest => {
  const { rows } = programCollections(recording);
  const { usedBeforeBytes } = recording.tables.collections.col;
  return new RangeLargest(rows.length, (place) => usedBeforeBytes[rows[place]!]!);
});

/** Objects that die soon after they were promoted. */
export function diesAfterPromotion(input: RuleInput): Finding[] {
  const cycles = oldSpaceCycles(input.recording, input.span);
  // A recorder's own collections of the whole heap promote what would have died young: what they find dead says nothing
  // of the program.
  const { flags } = input.recording.tables.collections.col;
  const { rows, fromMs, toMs, promotedBytes, diedBytes } = cycles;
  let [promoted, diedSoon] = [0, 0];
  for (let at = 0; at < rows.length; at++) {
    if (flags[rows[at]!]! & CollectionFlag.own) return [];
    promoted += promotedBytes[at]!;
    diedSoon += Math.min(diedBytes[at]!, promotedBytes[at]!);
  }
  const { usedBeforeBytes } = input.recording.tables.collections.col;
  if (rows.length < 2 || diedSoon < DIES_SOON_RATIO * promoted) return [];
  const peak = largestUse(input.recording).within(...input.places);
  if (peak >= 0 && promoted < PROMOTED_RATIO * usedBeforeBytes[input.collections.rows[peak]!]!) return [];
  const tried = input.collector.roomForYoung;
  return [
    {
      code: 'dies-after-promotion',
      sentence: `Up to ${formatPercent(diedSoon / promoted)} of what is promoted dies before the old space is collected the next time: ${formatBytes(diedSoon)} of ${formatBytes(promoted)}.`,
      rule: 'of the bytes promoted between two collections of the old space, at least a third may be among those the second found dead, and they are at least a tenth of the most the heap held',
      certainty: input.collector.promotesInPlace ? 'hint' : 'likely',
      advice: `The young space is too small, or objects are held slightly too long: find what keeps them for a few collections (buffers, windows, queues), or try ${tried}.`,
      costMs: pausedMs(input, rows),
      moments: Array.from(rows, (row, at) => ({
        fromMs: fromMs[at]!,
        toMs: toMs[at]!,
        pauseRow: input.collections.pauseOf[row]!,
      })),
    },
  ];
}

/** A floor that leaves little room below the limit, of each heap by itself. */
export function littleRoom({ recording, span }: RuleInput): Finding[] {
  const heaps = heapsApart(recording);
  return heaps.flatMap((heap) =>
    littleRoomOf(heap, span, heaps.length === 1 ? '' : ` of ${heap.heaps[heap.chosenHeaps![0]!]!.name}`),
  );
}

function littleRoomOf(recording: Recording, span: Span, whose: string): Finding[] {
  const limit = recording.heapLimitBytes();
  const floor = floorPoints(recording, span);
  if (!(limit > 0) || floor.tMs.length < LEAST_FLOOR_POINTS) return [];
  const third = Math.floor((floor.tMs.length * 2) / 3);
  const now = median(floor.bytes.subarray(third));
  if (now < NEAR_LIMIT_RATIO * limit) return [];
  return [
    {
      code: 'little-room',
      sentence: `After collecting, ${formatBytes(now)} of the ${formatBytes(limit)} limit${whose} stay in use (${formatPercent(now / limit)}).`,
      rule: 'the median floor of the span’s last third is over 80 % of the limit',
      certainty: 'certain',
      advice:
        'There is hardly room to work in, so collections come often and free little. See whether memory grows; if it does not, what lives at once needs a larger limit.',
      costMs: 0,
      moments: [{ fromMs: floor.tMs[third]!, toMs: floor.tMs[floor.tMs.length - 1]!, pauseRow: -1 }],
    },
  ];
}

/** Survivors, or promoted objects, that found no room. */
export function failedEvacuation(input: RuleInput): Finding[] {
  const rows = rowsFlagged(input, CollectionFlag.evacuationFailed);
  if (rows.length === 0) return [];
  return [
    {
      code: 'evacuation-failure',
      sentence: `In ${rows.length} collection${rows.length === 1 ? '' : 's'} survivors found no room to be copied to; ${formatDuration(pausedMs(input, rows))} of pauses.`,
      rule: 'the runtime says so: evacuation failure, to-space exhausted, or promotion failed',
      certainty: 'certain',
      advice: input.collector.roomForSurvivors,
      costMs: pausedMs(input, rows),
      moments: momentsOf(input, rows),
    },
  ];
}

/** Objects so large that G1 gives them regions of their own. */
export function humongous(input: RuleInput): Finding[] {
  const rows = rowsByCause(input, (_, cause) => cause === HUMONGOUS);
  if (rows.length < LEAST_HUMONGOUS) return [];
  return [
    {
      code: 'humongous',
      sentence: `${rows.length} collections were begun for objects of half a region or more (humongous).`,
      rule: `three or more collections have the cause ${HUMONGOUS}`,
      certainty: 'certain',
      advice:
        'Each such object takes whole regions and is freed only with them. Find who allocates such arrays; pooling or splitting them helps, and so do larger regions.',
      costMs: pausedMs(input, rows),
      moments: momentsOf(input, rows),
    },
  ];
}

// Places of the program's collections that tell a capacity, and which of them tell another than the one before.
const capacities = rememberReading((recording): { told: Uint32Array; changes: Uint32Array } => {
  const { rows } = programCollections(recording);
  const { capacityBytes } = recording.tables.collections.col;
  const [told, changes] = [new Uint32Array(rows.length), new Uint32Array(rows.length)];
  let [before, toldCount, changeCount] = [NaN, 0, 0];
  for (let place = 0; place < rows.length; place++) {
    const capacity = capacityBytes[rows[place]!]!;
    if (!(capacity > 0)) continue;
    if (capacity !== before) changes[changeCount++] = toldCount;
    told[toldCount++] = place;
    before = capacity;
  }
  return { told: told.slice(0, toldCount), changes: changes.slice(0, changeCount) };
});

/** A heap that grows and shrinks all the time. */
export function resizing(input: RuleInput): Finding[] {
  const { capacityBytes, scope } = input.recording.tables.collections.col;
  // A cycle's capacity is not always told, and Go's is its next goal.
  if (!input.collector.capacityIsHeap || input.collector.resizesByDesign) return [];
  const all = capacities(input.recording);
  const [first, end] = input.places.map((place) => firstPlaceFrom(all.told.length, (at) => all.told[at]!, place));
  const told = end! - first!;
  const changeFrom = (at: number): number => firstPlaceFrom(all.changes.length, (each) => all.changes[each]!, at);
  const later: number[] = [];
  let [least, most] = [Infinity, 0];
  const changes = all.changes.subarray(changeFrom(first! + Math.floor(told / 3) + 1), changeFrom(end!));
  for (let at = 0; at < changes.length; at++) {
    const row = input.collections.rows[all.told[changes[at]!]!]!;
    later.push(row);
    least = Math.min(least, capacityBytes[row]!);
    most = Math.max(most, capacityBytes[row]!);
  }
  const seldom = later.length < LEAST_RESIZES || later.length < RESIZE_RATIO * told;
  if (seldom || most < RESIZED_FACTOR * least) return [];
  return [
    {
      code: 'resizing',
      sentence: `The heap changed its size at ${later.length} of the last ${Math.ceil((told * 2) / 3)} collections, between ${formatBytes(least)} and ${formatBytes(most)}.`,
      rule: 'after the first third, more than a tenth of the collections, and at least five, leave another capacity than the one before, the largest at least half more than the least',
      certainty: 'certain',
      advice:
        'Resizing costs time in the pauses, whole-heap ones above all: with the least and the largest size set to the same it ends.',
      costMs: pausedMs(
        input,
        later.filter((row) => scope[row] === Scope.whole),
      ),
      moments: momentsOf(input, later),
    },
  ];
}
