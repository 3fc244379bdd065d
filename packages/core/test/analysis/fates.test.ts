import { chargeTable } from '../../src/analysis/charge-table.ts';
import { FATES, fateValues } from '../../src/analysis/fates.ts';
import { ObjectIndex } from '../../src/analysis/object-index.ts';
import { bucketOf, SIZE_BUCKETS, sizeHistogram } from '../../src/analysis/size-histogram.ts';
import { spanSums } from '../../src/analysis/span-sums.ts';
import { chargeGroups, chargeText } from '../../src/model/charge.ts';
import { Recording } from '../../src/model/recording.ts';
import { findOrigins } from '../../src/query/find-origins.ts';
import { addObject, followObjects } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

function world(): Recording {
  const random = seeded(8);
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  for (let n = 0; n < 5000; n++) {
    const bornMs = n * 2;
    addObject(recording, {
      bornMs,
      bytes: 16 + Math.floor(random() * 200),
      site: `site${n % 6}`,
      type: `Type${n % 4}`,
      probability: random() < 0.5 ? 1 : 0.5,
      ...(random() < 0.8 ? { diedMs: bornMs + random() * 900 } : {}),
    });
    if (random() < 0.1) recording.tables.objects.col.lost[n] = 1;
  }
  recording.reach(10_000);
  return recording;
}

const total = (values: Float64Array): number => values.reduce((sum, each) => sum + each, 0);

test.each([
  { fromMs: 0, toMs: 10_000 },
  { fromMs: 2500, toMs: 6000 },
  { fromMs: 9990, toMs: 10_000 },
])('kept, died, too young and lost from sight are all of it, by count and by bytes (%j)', (span) => {
  const recording = world();
  const sums = spanSums(new ObjectIndex(recording), span, 500);
  const { bornMs, endMs, lost, sizeBytes, probability } = recording.tables.objects.col;
  const naive = { all: 0, kept: 0, died: 0 };
  const counts = { all: 0, kept: 0, died: 0 };
  const variances = { all: 0, kept: 0, died: 0 };
  for (let row = 0; row < recording.tables.objects.length; row++) {
    if (!(bornMs[row]! >= span.fromMs && bornMs[row]! < span.toMs)) continue;
    const lives = !(endMs[row]! < span.toMs);
    const fates = [
      'all',
      ...(lives ? (span.toMs - bornMs[row]! < 500 ? [] : ['kept']) : lost[row] === 1 ? [] : ['died']),
    ] as ('all' | 'kept' | 'died')[];
    for (const fate of fates) {
      naive[fate] += sizeBytes[row]! / probability[row]!;
      counts[fate] += 1 / probability[row]!;
      variances[fate] += (1 - probability[row]!) / probability[row]! ** 2;
    }
  }
  for (const fate of FATES) {
    const values = fateValues(sums, fate);
    expect(total(values.bytes)).toBeCloseTo(naive[fate], 3);
    expect(total(values.count)).toBeCloseTo(counts[fate], 6);
    expect(total(values.countVariance)).toBeCloseTo(variances[fate], 6);
  }
});

test('the table tells the same fates as the origins do, of what was found as well', () => {
  const recording = world();
  const sums = spanSums(new ObjectIndex(recording), { fromMs: 1000, toMs: 8000 });
  for (const find of ['', 'site3']) {
    const chosen = findOrigins(recording, find);
    const { rows } = chargeTable(recording, sums, 'type', chosen);
    expect(rows.reduce((sum, row) => sum + row.diedBytes, 0)).toBeCloseTo(
      total(fateValues(sums, 'died', chosen).bytes),
      3,
    );
    expect(rows.reduce((sum, row) => sum + row.keptOfSpanCount, 0)).toBeCloseTo(
      total(fateValues(sums, 'kept', chosen).count),
      6,
    );
  }
});

test.each([
  [0.5, 0],
  [1, 0],
  [2, 1],
  [3, 1],
  [24, 4],
  [2 ** 20 - 1, 19],
  [2 ** 20, 20],
  [2 ** 33, 33],
  [2 ** 60, SIZE_BUCKETS - 1],
])('a size of %d bytes is in bucket %i', (size, bucket) => {
  expect(bucketOf(size)).toBe(bucket);
});

test('one giant and many dwarfs of equal bytes look different', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  addObject(recording, { bornMs: 1, bytes: 24_000, site: 'a', type: 'Page' });
  for (let n = 0; n < 500; n++)
    addObject(recording, { bornMs: 2, bytes: 24, site: 'a', type: 'Entry', probability: 0.5 });
  addObject(recording, { bornMs: 3, bytes: 99, site: 'a', type: 'Scaled', probability: NaN });
  addObject(recording, { bornMs: 50, bytes: 24, site: 'a', type: 'Entry' });
  const found = sizeHistogram(recording, { fromMs: 0, toMs: 10 }, chargeGroups(recording, 'type'));
  expect(
    found.map(({ key, count, bytes, smallestBytes, largestBytes }) => [
      chargeText(recording, 'type', key),
      count,
      bytes,
      smallestBytes,
      largestBytes,
    ]),
  ).toEqual([
    ['Page', 1, 24_000, 24_000, 24_000],
    ['Entry', 1000, 24_000, 24, 24],
  ]);
  // p = ½: (1 − p)/p² = 2 for each object that was seen, and (1 − p)·(24/p)² for its bytes.
  expect(found.map(({ countSe, bytesSe }) => [countSe ** 2, bytesSe ** 2])).toEqual([
    [0, 0],
    [expect.closeTo(1000, 6), expect.closeTo(500 * 1152, 6)],
  ]);
  expect([found[0]!.counts[14], found[1]!.counts[4], found[1]!.bucketBytes[4]]).toEqual([1, 1000, 24_000]);
});
