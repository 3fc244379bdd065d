import { floorPoints } from '../../src/analysis/floor.ts';
import { strata } from '../../src/analysis/strata.ts';
import { usedSeries } from '../../src/analysis/used-series.ts';
import { runSummary } from '../../src/analysis/verdict/run-summary.ts';
import { sentence, verdictClauses } from '../../src/analysis/verdict/sentence.ts';
import { judge } from '../../src/analysis/verdict/verdict.ts';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import { Recording } from '../../src/model/recording.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { wholeSpan } from '../../src/model/whole-span.ts';
import { addCollection, addObject, recordingOf, type TestCollection } from '../build-recording.ts';
import { normals, seeded } from '../seeded.ts';

const MIB = 1048576;
const said = (recording: Recording): string => {
  const verdict = judge(recording, wholeSpan(recording));
  return sentence(
    verdictClauses({ verdict, table: null, run: runSummary(recording, wholeSpan(recording), verdict, null) }),
  );
};

/** Sizes of the old space at each of the recording's collections so far, with what it can hold. */
function tellOldSpace(
  recording: Recording,
  before: (row: number) => number,
  after: (row: number) => number,
  capacityBytes = NaN,
): void {
  const { spaces, collections } = recording.tables;
  for (let row = 0; row < collections.length; row++) {
    const at = spaces.addRow();
    Object.entries({
      collectionRow: row,
      nameId: recording.intern('ParOldGen'),
      beforeBytes: before(row),
      afterBytes: after(row),
      capacityBytes,
    }).forEach(([name, value]) => {
      (spaces.col[name as 'beforeBytes'] as Float64Array)[at] = value;
    });
  }
}

describe('a heap that is full', () => {
  test('whole collections of a full old space are no settled floor, whatever the whole heap could hold', () => {
    // Old space of 107 of 160 MiB; whole collections rise from 40 to 119, ever closer, and stay.
    const times = Array.from({ length: 60 }, (_, n) => (n < 30 ? n * 1000 : 30_000 + (n - 30) * 250));
    const level = (n: number): number => Math.min(119, 40 + (79 * Math.min(times[n]!, 30_000)) / 30_000) * MIB;
    const recording = recordingOf(
      times.map((startMs, n) => ({
        startMs,
        ms: 60,
        before: Math.min(level(n) + 20 * MIB, 150 * MIB),
        after: level(n),
      })),
    );
    recording.heaps[0]!.limitBytes = 160 * MIB;
    recording.tables.collections.col.capacityBytes.fill(150 * MIB, 0, 60);
    tellOldSpace(
      recording,
      (row) => Math.min(106.9 * MIB, level(row)),
      (row) => Math.min(106.8 * MIB, level(row)),
      107 * MIB,
    );
    const verdict = judge(recording, wholeSpan(recording));
    expect(verdict).toMatchObject({ kind: 'growing', exhaustion: { what: 'old space' } });
    expect(said(recording)).toMatch(/^Growing 1[56]\d MiB\/min .*; the old space was full at 0:2\d\.$/);
  });

  test('out of memory that was told comes first', () => {
    const recording = recordingOf(
      Array.from({ length: 30 }, (_, n) => ({
        startMs: n * 1000,
        ms: 20,
        before: (30 + n) * MIB,
        after: (20 + n) * MIB,
      })),
    );
    recording.heaps[0]!.limitBytes = 50 * MIB;
    recording.heaps[0]!.outOfMemoryMs = 29_500;
    recording.reach(29_600);
    expect(said(recording)).toMatch(/^Out of memory at 0:29; Growing 6\d\.\d MiB\/min/);
    expect(analysisReport(recording).verdict.exhaustion).toMatchObject({ outOfMemoryMs: 29_500 });
  });

  test('of one heap is said though another was full before', () => {
    const recording = recordingOf(
      Array.from({ length: 40 }, (_, n) => ({
        startMs: n * 500,
        ms: 5,
        heapId: n % 2,
        before: 30 * MIB,
        after: (n % 2 === 0 ? 19 : 5 + n / 4) * MIB,
      })),
    );
    recording.addHeap('worker');
    recording.heaps[0]!.limitBytes = 20 * MIB;
    recording.heaps[1]!.outOfMemoryMs = 19_000;
    expect(judge(recording, wholeSpan(recording)).exhaustion).toMatchObject({
      what: 'heap',
      heapId: 0,
      outOfMemoryMs: 19_000,
    });
    expect(said(recording)).toMatch(/^Out of memory at 0:19; /);
  });

  test('a collection asked for once a minute that gives little back is none, far from any limit', () => {
    const recording = recordingOf(
      Array.from({ length: 12 }, (_, n) => ({
        startMs: n * 60_000,
        ms: 90,
        before: 151 * MIB,
        after: (150 + 0.1 * (n % 2)) * MIB,
        flags: CollectionFlag.explicit,
      })),
    );
    recording.heaps[0]!.limitBytes = 4096 * MIB;
    expect(judge(recording, wholeSpan(recording))).toMatchObject({ kind: 'steady', exhaustion: null });
  });
});

describe('heaps that end', () => {
  /** Ten processes of 8 MiB, one after the other, each with its whole collections. */
  const inTurn = (tellEnd: boolean): Recording => {
    const recording = recordingOf([]);
    for (let heapId = 0; heapId < 10; heapId++) {
      if (heapId > 0) recording.addHeap(`worker ${heapId}`);
      for (let n = 0; n < 12; n++)
        addCollection(recording, {
          startMs: heapId * 30_000 + n * 1000,
          ms: 5,
          before: 12 * MIB,
          after: 8 * MIB,
          heapId,
        });
      if (tellEnd) recording.heaps[heapId]!.endMs = heapId * 30_000 + 12_000;
    }
    return recording;
  };

  test.each([true, false])('leave every sum, told or fallen silent (told: %s)', (tellEnd) => {
    const recording = inTurn(tellEnd);
    const floor = floorPoints(recording, wholeSpan(recording));
    expect(Math.max(...floor.bytes.subarray(12)) / MIB).toBeLessThanOrEqual(16);
    expect(Math.max(...usedSeries(recording).bytes) / MIB).toBeLessThanOrEqual(24);
    expect(judge(recording, wholeSpan(recording)).kind).not.toBe('growing');
  });

  test('the last one is there to the end', () => {
    const used = usedSeries(inTurn(true));
    expect(used.bytes.at(-1)! / MIB).toBeCloseTo(8, 5);
    const recording = inTurn(true);
    addObject(recording, { bornMs: 1000, bytes: MIB, site: 'load', heapId: 9 });
    expect(strata(recording, wholeSpan(recording), { bins: 4 }).bytes.some((bytes) => bytes > 0)).toBe(true);
  });
});

describe('where no whole collection has looked', () => {
  const young = (promoted: number, count = 165): Recording => {
    const collections: TestCollection[] = Array.from({ length: count }, (_, n) => ({
      startMs: n * 200,
      ms: 3,
      before: (40 + promoted * n) * MIB,
      after: (12 + promoted * n) * MIB,
      scope: Scope.young,
    }));
    const recording = recordingOf(collections);
    tellOldSpace(
      recording,
      (row) => (10 + promoted * row) * MIB,
      (row) => (10 + promoted * (row + 1)) * MIB,
    );
    return recording;
  };

  test('nothing promoted in 165 young collections is an answer', () => {
    const verdict = judge(young(0), wholeSpan(young(0)));
    expect(verdict).toMatchObject({ kind: 'steady', basis: 'bound', bound: { basis: 'old-space', points: 165 } });
    expect(said(young(0))).toMatch(
      /^Steady so far: at most 0 B\/min can be staying, by what enters the old space in 165 collections; no whole collection has shown the floor, at most 12\.0 MiB\.$/,
    );
  });

  test('what is promoted bounds what can stay, and is not called growth', () => {
    const verdict = judge(young(0.2), wholeSpan(young(0.2)));
    expect(verdict.kind).toBe('unclear');
    expect(verdict.bound!.mostPerSec / MIB).toBeCloseTo(1, 1);
    expect(verdict.missing).toMatch(
      /^3 more whole-heap collections \(0 of 3 seen\): force one, or record on; until then, at most 60\.\d MiB a minute can be staying$/,
    );
  });

  test('a program that has ended is never told to force one or to record on', () => {
    const recording = young(0.2);
    recording.heaps[0]!.endMs = 33_100;
    recording.runtime = 'OpenJDK 17';
    expect(said(recording)).toMatch(
      /^Ended after 33\.1 s: most at 0:32, 44\.8 MiB; whether memory kept rising is unclear \(at most .*\): it needs 3 more whole-heap collections \(0 of 3 seen\): run it for longer, or force some while it runs \(jcmd PID GC\.run\)\.$/,
    );
    expect(analysisReport(recording).verdict.run).toMatchObject({
      rose: 'unclear',
      outOfMemory: false,
      lengthMs: 33_100,
    });
  });
});

describe('shapes that were told wrongly', () => {
  const whole = (level: (n: number) => number, count: number, everyMs = 1000): Recording =>
    recordingOf(
      Array.from({ length: count }, (_, n) => ({
        startMs: 500 + n * everyMs,
        ms: 5,
        before: (level(n) + 20) * MIB,
        after: level(n) * MIB,
      })),
    );
  const kindOf = (recording: Recording): string => judge(recording, wholeSpan(recording)).kind;

  test('a start-up of a few seconds is no trend', () => {
    const noise = normals(seeded(3));
    for (let run = 0; run < 20; run++)
      expect(['unclear', 'settled', 'steady']).toContain(
        kindOf(whole((n) => 12 + 10 * (1 - Math.exp(-n / 4)) + 0.8 * noise(), 13, 500)),
      );
  });

  test('a straight leak whose sizes are all multiples of 2 MiB is growing, not stepping', () => {
    expect(kindOf(whole((n) => 2 * Math.round((20 + 0.25 * n) / 2), 120))).toBe('growing');
  });

  test('a leak with one idle gap is growing, not stepping', () => {
    expect(kindOf(whole((n) => 20 + 0.5 * (n < 40 ? n : n < 60 ? 40 : n - 20), 100))).toBe('growing');
  });

  test('a floor that rose while the program started and is flat for long has settled, and a staircase after a start-up keeps its period', () => {
    expect(kindOf(whole((n) => (n < 17 ? 10 + n : 27) + 0.02 * (n % 5), 60))).toBe('settled');
    const stairs = judge(
      whole((n) => (n < 3 ? 4 : 20) + 3 * Math.floor(n / 10) + 0.01 * (n % 3), 90),
      { fromMs: 0, toMs: 90_500 },
    );
    expect(stairs).toMatchObject({ kind: 'stepping', periodMs: 10_000 });
    expect(stairs.steps.length).toBe(8);
  });

  test('a floor of 0 in whole megabytes, with peaks that the printed digit makes, is no burst', () => {
    const recording = recordingOf(
      Array.from({ length: 60 }, (_, n) => ({
        startMs: n * 100,
        ms: 1,
        before: (n % 7 === 0 ? 3 : 1) * MIB,
        after: 0,
      })),
    );
    recording.tables.collections.col.resolutionBytes.fill(MIB, 0, 60);
    expect(kindOf(recording)).toBe('steady');
  });

  test('a heap that shrank and grew again for collections that were asked for does not burst', () => {
    const recording = recordingOf(
      Array.from({ length: 80 }, (_, n) =>
        n % 8 === 0
          ? { startMs: n * 200, ms: 20, before: 18 * MIB, after: 12 * MIB, flags: CollectionFlag.explicit }
          : { startMs: n * 200, ms: 3, before: (n % 8 < 3 ? 110 : 17) * MIB, after: 12.5 * MIB, scope: Scope.young },
      ),
    );
    expect(kindOf(recording)).toBe('steady');
  });

  test('what lives rises and falls and comes back is steady, with its bounds; with a leak under it, it is not', () => {
    const swings = whole((n) => 20 + 20 * ((n % 12) / 12), 96);
    expect(judge(swings, wholeSpan(swings))).toMatchObject({ kind: 'steady', swingLowBytes: 20 * MIB });
    expect(said(swings)).toMatch(
      /^Steady: the floor rises and falls between 20\.0 MiB and 38\.3 MiB, and comes back, over 96 points/,
    );
    expect(kindOf(whole((n) => 20 + 0.08 * n + 20 * ((n % 12) / 12), 96))).not.toBe('steady');
  });

  test('since when it grows, and what else changed then', () => {
    const recording = whole((n) => 20 + Math.max(0, n - 60) * 0.5, 120);
    const { marks } = recording.tables;
    const row = marks.addRow();
    Object.entries({ tMs: 60_900, labelId: recording.intern('new subscribers'), heapId: 0, origin: 1 }).forEach(
      ([name, value]) => {
        (marks.col[name as 'tMs'] as Float64Array)[row] = value;
      },
    );
    const verdict = judge(recording, wholeSpan(recording));
    expect(verdict.kind).toBe('growing');
    expect(verdict.sinceLowMs).toBeLessThanOrEqual(60_500);
    expect(verdict.sinceHighMs).toBeGreaterThanOrEqual(60_500);
    expect(verdict.changed).toContain('mark “new subscribers” at 1:00');
  });
});

describe('memory outside the heap', () => {
  const withSizes = (external: (n: number) => number, resident: (n: number) => number): Recording => {
    const recording = recordingOf(
      Array.from({ length: 60 }, (_, n) => ({ startMs: n * 1000, ms: 5, before: 12 * MIB, after: 8 * MIB })),
    );
    const { sizes } = recording.tables;
    for (let n = 0; n < 240; n++) {
      const row = sizes.addRow();
      sizes.col.tMs[row] = n * 250;
      sizes.col.externalBytes[row] = external(n) * MIB;
      sizes.col.residentBytes[row] = resident(n) * MIB;
    }
    return recording;
  };

  test('that grows is told first, beside a steady heap, with the time to the container’s limit', () => {
    const recording = withSizes(
      (n) => 4 + 0.0475 * n,
      (n) => 90 + 0.0475 * n,
    );
    recording.containerLimitBytes = 256 * MIB;
    expect(said(recording)).toMatch(
      /^Growing outside the heap 11\.4 MiB\/min \(.*\); the process at its limit in about 1\d min; the heap itself is steady: the floor stays at 8\.00 MiB/,
    );
    expect(analysisReport(recording).verdict).toMatchObject({
      kind: 'steady',
      outside: { kind: 'growing' },
      resident: { kind: 'growing' },
    });
  });

  test('that comes and goes with collections is not growing', () => {
    expect(
      analysisReport(
        withSizes(
          (n) => 4 + (n % 12),
          () => 90,
        ),
      ).verdict,
    ).toMatchObject({ outside: { kind: 'steady' }, resident: { kind: 'steady' } });
  });
});
