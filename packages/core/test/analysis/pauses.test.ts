import { minimumMutatorUtilisation, mmuWindows } from '../../src/analysis/mmu.ts';
import { pauseFigures, programPauses } from '../../src/analysis/program-pauses.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { recordingOf } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

const at = (startMs: number, ms: number, flags = 0) => ({ startMs, ms, before: 10, after: 5, flags });

test('figures of pauses, those of the recorder left out', () => {
  const recording = recordingOf([at(100, 10), at(200, 30), at(300, 20), at(400, 500, CollectionFlag.own)], 1000);
  const span = { fromMs: 0, toMs: 1000 };
  const figures = pauseFigures(recording, programPauses(recording, span), span);
  expect(figures).toMatchObject({ count: 3, totalMs: 60, maxMs: 30, p50Ms: 20, p99Ms: 30, byName: { Pause: { count: 3, totalMs: 60, maxMs: 30 } } });
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
  const figures = pauseFigures(recording, programPauses(recording, { fromMs: 0, toMs: 1000 }), { fromMs: 0, toMs: 1000 });
  expect([figures.count, figures.maxMs, figures.p50Ms, figures.throughputRatio]).toEqual([0, NaN, NaN, 1]);
});

describe('minimum mutator utilisation', () => {
  // Three pauses of 10 in a window of 50 leave 20 of 50, as in the worked definition of Cheng & Blelloch (2001), section 3.
  test('a window that catches three pauses', () => {
    const recording = recordingOf([at(100, 10), at(120, 10), at(140, 10), at(500, 25)], 1000);
    const span = { fromMs: 0, toMs: 1000 };
    const points = minimumMutatorUtilisation(programPauses(recording, span), span, [10, 25, 50, 1000, 2000]);
    expect(points).toEqual([{ windowMs: 10, ratio: 0 }, { windowMs: 25, ratio: 0 }, { windowMs: 50, ratio: 0.4 }, { windowMs: 1000, ratio: 0.945 }]);
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
        for (let from = 0; from + windowMs <= 1000; from++) most = Math.max(most, paused.subarray(from, from + windowMs).reduce((sum, each) => sum + each, 0));
        const [point] = minimumMutatorUtilisation(programPauses(recording, span), span, [windowMs]);
        expect(point!.ratio).toBeCloseTo(1 - most / windowMs, 9);
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
