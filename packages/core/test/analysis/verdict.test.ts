import { findProblems } from '../../src/analysis/findings/find-problems.ts';
import { sentence, verdictClauses } from '../../src/analysis/verdict/sentence.ts';
import { judge, type VerdictKind } from '../../src/analysis/verdict/verdict.ts';
import { Recording } from '../../src/model/recording.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { wholeSpan } from '../../src/model/whole-span.ts';
import { recordingOf } from '../build-recording.ts';
import { normals, seeded } from '../seeded.ts';

const MIB = 1048576;

/**
 * A recording whose floor follows `level` (MiB) at 40 whole collections, one every 2 s, with three young ones between.
 */
function shaped(level: (share: number, random: () => number) => number, seed: number, points = 40): Recording {
  const noise = normals(seeded(seed));
  const collections = [];
  for (let n = 0; n < points; n++) {
    const floor = level(n / points, noise) * MIB;
    for (let young = 0; young < 3; young++)
      collections.push({
        startMs: n * 2000 + 400 * (young + 1),
        ms: 2,
        before: floor + 9 * MIB,
        after: floor + (2 + young) * MIB,
        scope: Scope.young,
      });
    collections.push({ startMs: n * 2000 + 1900, ms: 20, before: floor + 9 * MIB, after: floor });
  }
  return recordingOf(collections);
}

const SHAPES: readonly (readonly [string, VerdictKind, (share: number, noise: () => number) => number])[] = [
  ['steady noise', 'steady', (_, noise) => 40 + 0.4 * noise()],
  ['a slow leak', 'growing', (share, noise) => 40 + 8 * share + 0.4 * noise()],
  ['a fast leak', 'growing', (share, noise) => 10 + 80 * share + noise()],
  ['a staircase', 'stepping', (share, noise) => 20 + 5 * Math.floor(share * 5) + 0.2 * noise()],
  ['a warm-up that settles', 'settled', (share, noise) => 40 - 25 * Math.exp(-share * 12) + 0.2 * noise()],
  ['a cache that fills', 'settled', (share, noise) => Math.min(30, 10 + 60 * share) + 0.2 * noise()],
  ['a shrinking heap', 'shrinking', (share, noise) => 40 - 12 * share + 0.4 * noise()],
];

test.each(SHAPES)('%s is %s', (_, kind, level) => {
  const verdicts = Array.from(
    { length: 20 },
    (_unused, seed) => judge(shaped(level, seed + 1), { fromMs: 0, toMs: 80_000 }).kind,
  );
  expect(verdicts.filter((each) => each === kind).length).toBeGreaterThanOrEqual(19);
});

test('a warm-up followed by tiny moves of the runtime is settled, not a staircase', () => {
  const level = (share: number): number => (share < 0.15 ? 3.7 + share * 4 : 4.3 + 0.002 * Math.floor(share * 12));
  const recording = shaped(level, 1);
  expect(judge(recording, wholeSpan(recording)).kind).toBe('settled');
});

test('a slow leak printed in whole mebibytes is growing, not a staircase', () => {
  for (const slope of [4, 6, 9]) {
    const recording = shaped((share) => Math.floor(20 + slope * share), 1, 60);
    recording.tables.collections.col.resolutionBytes.fill(MIB, 0, recording.tables.collections.length);
    expect(judge(recording, wholeSpan(recording)).kind).toBe('growing');
  }
});

test('a flat floor with a peak of over twice the usual is bursting', () => {
  const recording = recordingOf(
    Array.from({ length: 30 }, (_, n) => ({
      startMs: n * 2000,
      ms: 20,
      before: (n === 17 ? 95 : 40) * MIB,
      after: 20 * MIB,
    })),
  );
  const verdict = judge(recording, wholeSpan(recording));
  expect(verdict.kind).toBe('bursting');
  expect(sentence(verdictClauses({ verdict, table: null }))).toMatch(/^Bursting: the floor is flat at 20\.0 MiB/);
});

test('a young space that the collector made larger is no burst, nor is what piles up between collections that the recorder forced', () => {
  const collections = Array.from({ length: 60 }, (_, n) =>
    n % 4 === 0
      ? { startMs: n * 500, ms: 10, before: 25 * MIB, after: 20 * MIB, flags: CollectionFlag.own }
      : { startMs: n * 500, ms: 3, before: (n % 20 === 3 ? 160 : 50) * MIB, after: 21 * MIB, scope: Scope.young },
  );
  const recording = recordingOf(collections);
  expect(judge(recording, wholeSpan(recording)).kind).toBe('steady');
});

test('noise is never called growth', () => {
  for (let seed = 100; seed < 300; seed++) {
    const recording = shaped((_, noise) => 40 + noise(), seed);
    expect(['growing', 'stepping']).not.toContain(judge(recording, wholeSpan(recording)).kind);
  }
});

test('the slope, its interval and the time to the limit are those of the leak', () => {
  const recording = shaped((share, noise) => 40 + 16 * share + 0.3 * noise(), 4);
  recording.heaps[0]!.limitBytes = 100 * MIB;
  const verdict = judge(recording, wholeSpan(recording));
  const truth = (16 * MIB) / 80;
  expect(verdict.slopeLow).toBeLessThan(truth);
  expect(verdict.slopeHigh).toBeGreaterThan(truth);
  expect(verdict.slopeBytesPerSec / truth).toBeCloseTo(1, 1);
  expect(verdict.timeToLimitMs / ((44 / 16) * 80_000)).toBeCloseTo(1, 1);
  expect(verdict.timeToLimitLowMs).toBeLessThan(verdict.timeToLimitHighMs);
  expect(sentence(verdictClauses({ verdict, table: null }))).toMatch(
    /^Growing 12\.\d MiB\/min \(\d+\.\d–\d+\.\d\); 100 MiB limit in about [34] min\.$/,
  );
});

describe('of several heaps', () => {
  // A steady heap of 40 MiB and one that leaks from 20 to 60, of 100 MiB each, collected in turn.
  const heaps = (level: (share: number, heapId: number) => number): Recording => {
    const recording = recordingOf(
      Array.from({ length: 80 }, (_, n) => ({
        startMs: n * 1000,
        ms: 5,
        heapId: n % 2,
        before: 90 * MIB,
        after: level(n / 80, n % 2) * MIB,
      })),
    );
    recording.addHeap('worker 1.2');
    for (const heap of recording.heaps) heap.limitBytes = 100 * MIB;
    return recording;
  };
  const leaking = (): Recording =>
    heaps((share, heapId) => (heapId === 0 ? 40 + 0.2 * Math.sin(share * 90) : 20 + 40 * share));

  test('each is held against its own limit, and the first to get there is named', () => {
    const recording = leaking();
    const verdict = judge(recording, wholeSpan(recording));
    // Together they use 100 MiB at the end, and no heap is full.
    expect(verdict).toMatchObject({
      kind: 'growing',
      limitHeap: 'worker 1.2',
      limitBytes: 100 * MIB,
      exhaustedMs: NaN,
    });
    expect(verdict.floorNowBytes / (100 * MIB)).toBeCloseTo(1, 1);
    expect(verdict.timeToLimitMs / 80_000).toBeCloseTo(1, 1);
    expect(sentence(verdictClauses({ verdict, table: null }))).toMatch(
      /; worker 1\.2 at its 100 MiB limit in about 8\d s\.$/,
    );
  });

  test('a limit that was typed is that of all together', () => {
    const recording = leaking();
    recording.givenLimitBytes = 120 * MIB;
    const verdict = judge(recording, wholeSpan(recording));
    expect(verdict).toMatchObject({ limitHeap: null, limitBytes: 120 * MIB });
    expect(verdict.timeToLimitMs / 40_000).toBeCloseTo(1, 1);
  });

  test('one that is full is full though the others are not, and has little room', () => {
    const recording = heaps((share, heapId) => (heapId === 0 ? 10 : Math.min(95, 20 + 150 * share)));
    expect(judge(recording, wholeSpan(recording)).exhaustedMs / 1000).toBeCloseTo(38, -1);
    expect(
      findProblems(recording, wholeSpan(recording)).map(({ code, sentence: said }) =>
        code === 'little-room' ? said : '',
      ),
    ).toContain('After collecting, 95.0 MiB of the 100 MiB limit of worker 1.2 stay in use (95 %).');
  });

  test('without growth each limit is told as one of several', () => {
    const recording = heaps(() => 30);
    expect(judge(recording, wholeSpan(recording))).toMatchObject({ kind: 'steady', limitHeap: '', timeToLimitMs: NaN });
  });
});

test('the period of a staircase is found', () => {
  const recording = shaped((share, noise) => 20 + 5 * Math.floor(share * 5) + 0.1 * noise(), 8);
  const verdict = judge(recording, wholeSpan(recording));
  expect(verdict.steps.length).toBe(4);
  expect(verdict.periodMs).toBe(16_000);
  expect(verdict.steps[0]!.bytes / MIB).toBeCloseTo(5, 0);
});

test('too little evidence is unclear, and says what is missing', () => {
  const few = shaped(() => 20, 1, 2);
  expect(judge(few, wholeSpan(few))).toMatchObject({
    kind: 'unclear',
    missing: expect.stringMatching(
      /^1 more whole-heap collections \(2 of 3 seen\): force one, or record on; until then, at most .* a minute can be staying$/,
    ) as string,
  });
  const more = shaped((share) => 20 + 9 * Math.sin(share * 60), 1, 4);
  expect(judge(more, wholeSpan(more)).missing).toMatch(
    /^more floor points: between −?[\d.]+ \w+ and [\d.]+ \w+ a minute are possible; record on$/,
  );
  const none = new Recording('recording');
  expect(judge(none, wholeSpan(none)).kind).toBe('unclear');
});

test('a full heap is not called settled', () => {
  const leak = shaped((share, noise) => Math.min(60, 10 + 120 * share) + 0.1 * noise(), 3);
  leak.heaps[0]!.limitBytes = 62 * MIB;
  const verdict = judge(leak, wholeSpan(leak));
  expect(verdict.kind).toBe('growing');
  expect(sentence(verdictClauses({ verdict, table: null }))).toContain('the heap was full at 0:3');
});

test('where no trend is believed, the floor is a level that was seen', () => {
  let judged = 0;
  for (let seed = 0; seed < 20; seed++) {
    // Points that crowd at the end give any line a lever.
    const recording = shaped((share, noise) => (share < 0.05 ? 30 : 8) + Math.abs(noise()), seed, 40);
    const verdict = judge(recording, wholeSpan(recording));
    if (
      verdict.kind === 'growing' ||
      verdict.kind === 'stepping' ||
      verdict.kind === 'unclear' ||
      verdict.kind === 'shrinking'
    )
      continue;
    judged++;
    expect(verdict.floorNowBytes).toBeGreaterThanOrEqual(Math.min(...verdict.floor.bytes));
    expect(verdict.floorNowBytes).toBeLessThanOrEqual(Math.max(...verdict.floor.bytes));
  }
  expect(judged).toBeGreaterThan(10);
});

test('few noisy points of a leak are unclear rather than steady, and the sentence says what is possible', () => {
  const kinds = Array.from({ length: 200 }, (_, seed) => {
    const recording = shaped((share, noise) => 40 + 8 * share + 2 * noise(), seed + 1, 8);
    return judge(recording, wholeSpan(recording));
  });
  expect(kinds.filter(({ kind }) => kind === 'steady' || kind === 'settled').length).toBeLessThan(30);
  const open = kinds.find(({ kind }) => kind === 'unclear')!;
  expect(open.missing).toMatch(
    /^more floor points: (?:between −?[\d.]+ \w+ and [\d.]+ \w+ a minute are possible|memory rose, and whether it still does cannot be told); record on$/,
  );
});

test('a leak that begins half way is no staircase', () => {
  const kinds = Array.from({ length: 50 }, (_, seed) => {
    const recording = shaped((share, noise) => 20 + 30 * Math.max(0, share - 0.5) + 0.4 * noise(), seed + 1, 100);
    return judge(recording, wholeSpan(recording)).kind;
  });
  expect(kinds.filter((kind) => kind === 'growing').length).toBeGreaterThan(45);
});

test('noise alone is not called settled', () => {
  const kinds = Array.from({ length: 100 }, (_, seed) => {
    const recording = shaped((_share, noise) => 40 + 4 * noise(), seed + 1, 20);
    return judge(recording, wholeSpan(recording)).kind;
  });
  expect(kinds.filter((kind) => kind !== 'steady' && kind !== 'unclear').length).toBeLessThan(4);
});
