import { costSeries } from '../../src/analysis/cost-series.ts';
import { lostTime } from '../../src/analysis/lost-time.ts';
import { minimumMutatorUtilisation, mmuWindows } from '../../src/analysis/mmu.ts';
import { programPauses } from '../../src/analysis/program-pauses.ts';
import { pauseFigures } from '../../src/analysis/pause-figures.ts';
import type { Recording } from '../../src/model/recording.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { recordingOf } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

const at = (startMs: number, ms: number, flags = 0) => ({ startMs, ms, before: 10, after: 5, flags });

test('figures of pauses, those of the recorder left out', () => {
  const recording = recordingOf([at(100, 10), at(200, 30), at(300, 20), at(400, 500, CollectionFlag.own)], 1000);
  const span = { fromMs: 0, toMs: 1000 };
  const figures = pauseFigures(recording, programPauses(recording, span), span);
  expect(figures).toMatchObject({
    count: 3,
    totalMs: 60,
    maxMs: 30,
    p50Ms: 20,
    p99Ms: 30,
    byName: new Map([['Pause', { count: 3, totalMs: 60, maxMs: 30 }]]),
  });
  expect(figures.throughputRatio).toBeCloseTo(0.94, 12);
});

test("a pause over the span's edge counts by its part inside", () => {
  const recording = recordingOf([at(90, 20), at(190, 20)], 1000);
  const span = { fromMs: 100, toMs: 200 };
  const figures = pauseFigures(recording, programPauses(recording, span), span);
  expect([figures.count, figures.throughputRatio]).toEqual([2, 0.8]);
});

test('no pauses: nothing is made up', () => {
  const recording = recordingOf([], 1000);
  const figures = pauseFigures(recording, programPauses(recording, { fromMs: 0, toMs: 1000 }), {
    fromMs: 0,
    toMs: 1000,
  });
  expect([figures.count, figures.maxMs, figures.p50Ms, figures.throughputRatio]).toEqual([0, NaN, NaN, 1]);
});

describe('minimum mutator utilisation', () => {
  // Three pauses of 10 in a window of 50 leave 20 of 50, as in the worked definition of Cheng & Blelloch (2001),
  // section 3.
  test('a window that catches three pauses', () => {
    const recording = recordingOf([at(100, 10), at(120, 10), at(140, 10), at(500, 25)], 1000);
    const span = { fromMs: 0, toMs: 1000 };
    const points = minimumMutatorUtilisation(lostTime(recording, span).curve, span, [10, 25, 50, 1000, 2000]);
    expect(points).toEqual([
      { windowMs: 10, ratio: 0 },
      { windowMs: 25, ratio: 0 },
      { windowMs: 50, ratio: 0.4 },
      { windowMs: 1000, ratio: 0.945 },
    ]);
  });

  test('equals trying every window of a fine grid', () => {
    const random = seeded(9);
    for (let run = 0; run < 20; run++) {
      const pauses: ReturnType<typeof at>[] = [];
      for (let t = 0; t < 900; t += 1 + Math.floor(random() * 80)) pauses.push(at(t, 1 + Math.floor(random() * 20)));
      const recording = recordingOf(pauses, 1000);
      const span = { fromMs: 0, toMs: 1000 };
      for (const windowMs of [7, 40, 333]) {
        let most = 0;
        const paused = new Uint8Array(1000);
        for (const pause of pauses) paused.fill(1, pause.startMs, Math.min(1000, pause.startMs + pause.ms));
        for (let from = 0; from + windowMs <= 1000; from++)
          most = Math.max(
            most,
            paused.subarray(from, from + windowMs).reduce((sum, each) => sum + each, 0),
          );
        const [point] = minimumMutatorUtilisation(lostTime(recording, span).curve, span, [windowMs]);
        expect(point!.ratio).toBeCloseTo(1 - most / windowMs, 9);
      }
    }
  });

  test('equals trying every window of a fine grid, in spans of a long recording', () => {
    const random = seeded(10);
    const lengthMs = 40_000;
    const pauses: ReturnType<typeof at>[] = [];
    // Now and then a pause that outlasts the next ones.
    for (let t = 0; t < lengthMs; t += 1 + Math.floor(random() * 9))
      pauses.push(at(t, 1 + Math.floor(random() * (random() < 0.002 ? 300 : 3))));
    expect(pauses.length).toBeGreaterThan(6000);
    const recording = recordingOf(pauses, lengthMs);
    const paused = new Uint8Array(lengthMs);
    for (const pause of pauses) paused.fill(1, pause.startMs, Math.min(lengthMs, pause.startMs + pause.ms));
    for (const span of [
      { fromMs: 0, toMs: lengthMs },
      { fromMs: 12_345, toMs: 30_111 },
      { fromMs: 777, toMs: 901 },
    ]) {
      const lost = lostTime(recording, span);
      expect(lost.lostMs).toBeCloseTo(
        paused.subarray(span.fromMs, span.toMs).reduce((sum, each) => sum + each, 0),
        6,
      );
      const windows = [1, 3, 20, 100, 1000, 10_000].filter((each) => each <= span.toMs - span.fromMs);
      const points = minimumMutatorUtilisation(lost.curve, span, windows);
      expect(points.map(({ windowMs }) => windowMs)).toEqual(windows);
      for (const { windowMs, ratio } of points) {
        let lostMs = paused.subarray(span.fromMs, span.fromMs + windowMs).reduce((sum, each) => sum + each, 0);
        let most = lostMs;
        for (let from = span.fromMs; from + windowMs < span.toMs; from++) {
          lostMs += paused[from + windowMs]! - paused[from]!;
          most = Math.max(most, lostMs);
        }
        expect(ratio).toBeCloseTo(1 - most / windowMs, 9);
      }
    }
  });

  test('windows rise 1, 2, 5 and end with the span', () => {
    expect(mmuWindows(30)).toEqual([1, 2, 5, 10, 20, 30]);
    expect(mmuWindows(0)).toEqual([]);
  });
});

test('young pauses keep their scope apart', () => {
  const recording = recordingOf([{ ...at(1, 1), scope: Scope.young }]);
  expect(recording.tables.pauses.col.scope[0]).toBe(Scope.young);
});

describe('what is lost beside pauses', () => {
  const stall = (recording: Recording, startMs: number, durationMs: number, thread: string): void => {
    const { stalls } = recording.tables;
    const row = stalls.addRow();
    Object.entries({
      startMs,
      durationMs,
      threadId: recording.intern(thread),
      labelId: recording.intern('Allocation Stall'),
    }).forEach(([name, value]) => {
      (stalls.col[name as 'startMs'] as Float64Array)[row] = value;
    });
  };
  const all = { fromMs: 0, toMs: 1000 };

  test('threads that wait for memory cost throughput and utilisation, by their share of the threads that are named', () => {
    const recording = recordingOf([{ startMs: 100, ms: 10, before: 10, after: 5 }], 1000);
    stall(recording, 200, 400, 'load-0');
    stall(recording, 400, 400, 'load-1');
    const selection = programPauses(recording, all);
    const lost = lostTime(recording, all);
    // 10 ms of pause, 200 ms at a half, 200 ms at one, 200 ms at a half.
    expect(lost).toMatchObject({ pausedMs: 10, waitedMs: 800, threads: 2, otherStopsMs: 0 });
    expect(lost.lostMs).toBeCloseTo(410, 9);
    expect(lost.worstRatio).toBeCloseTo(0.41, 9);
    expect(pauseFigures(recording, selection, all).throughputRatio).toBeCloseTo(0.59, 9);
    const [worst] = minimumMutatorUtilisation(lost.curve, all, [400]);
    // The window from 300 to 700: 100 ms at a half, 200 at one, 100 at a half.
    expect(worst!.ratio).toBeCloseTo(1 - 300 / 400, 9);
    const series = costSeries(recording, all, 10);
    expect(Array.from(series.throughputRatio, (ratio) => Math.round(ratio * 100) / 100)).toEqual([
      1, 0.9, 0.5, 0.5, 0, 0, 0.5, 0.5, 1, 1,
    ]);
  });

  test('stops for what the recorder did are its own, wherever in it they lie', () => {
    const own = CollectionFlag.own;
    const recording = recordingOf([at(100, 10), at(300, 200, own), at(310, 5, own), at(700, 20, own)], 1000);
    const { safepoints } = recording.tables;
    for (const [startMs, totalMs] of [
      // Of the program; around the second, in the midst of the first, and over the end of the last of its own.
      [99, 12],
      [309, 8],
      [400, 60],
      [715, 10],
      // Between two of them, and behind the last.
      [600, 30],
      [800, 40],
    ] as const) {
      const row = safepoints.addRow();
      safepoints.col.startMs[row] = startMs;
      safepoints.col.totalMs[row] = totalMs;
    }
    const lost = lostTime(recording, all);
    expect([lost.pausedMs, lost.otherStopsMs]).toEqual([10, 2 + 30 + 40]);
  });

  test('a stop that holds a pause is told once, and a stop of another kind is lost as well', () => {
    const recording = recordingOf([{ startMs: 100, ms: 10, before: 10, after: 5 }], 1000);
    const { safepoints } = recording.tables;
    for (const [startMs, totalMs] of [
      [99, 12],
      [500, 30],
    ] as const) {
      const row = safepoints.addRow();
      safepoints.col.startMs[row] = startMs;
      safepoints.col.totalMs[row] = totalMs;
    }
    const lost = lostTime(recording, all);
    expect(lost).toMatchObject({ pausedMs: 10, otherStopsMs: 32, lostMs: 42, threads: 0, worstThread: '' });
  });
});
