import { endOfWorkMs, workOf } from '../../src/analysis/end-of-work.ts';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import type { Recording } from '../../src/model/recording.ts';
import { addObject, followObjects, recordingOf } from '../build-recording.ts';

const MIB = 1048576;

/**
 * A leak of 12 MiB a minute over a minute, with a whole collection every second; at its end, at 60 s, the program lets
 * everything go, or not.
 */
function leak(letsGo: boolean): Recording {
  const collections = Array.from({ length: 60 }, (_, n) => ({
    startMs: (n + 1) * 1000,
    ms: 5,
    before: (20 + 0.2 * n) * MIB,
    after: (letsGo && n === 59 ? 0.5 : 5 + 0.2 * n) * MIB,
  }));
  const recording = recordingOf(collections);
  followObjects(recording);
  for (let at = 0; at < 600; at++)
    addObject(recording, {
      bornMs: at * 100,
      bytes: 0.02 * MIB,
      site: 'subscribe',
      ...(letsGo ? { diedMs: 60_005 } : {}),
    });
  recording.heaps[0]!.endMs = 60_100;
  recording.reach(60_100);
  return recording;
}

test('what a program lets go as it ends is neither death nor settle time: the leak is still told, with what it kept', () => {
  const recording = leak(true);
  expect(endOfWorkMs(recording)).toBeGreaterThan(59_000);
  expect(endOfWorkMs(recording)).toBeLessThan(60_005);
  const report = analysisReport(recording);
  expect(report).toMatchObject({
    verdict: { kind: 'growing', run: { outOfMemory: false } },
    endOfWorkMs: endOfWorkMs(recording),
  });
  expect(report.sites[0]!.keptBytes / MIB).toBeGreaterThan(10);
  expect((report.sites[0]!.growthBytesPerSec! * 60) / MIB).toBeCloseTo(12, 0);
});

test('a program that lets nothing go, or runs still, has no such end', () => {
  expect(endOfWorkMs(leak(false))).toBe(Infinity);
  const running = leak(true);
  running.heaps[0]!.endMs = NaN;
  expect(endOfWorkMs(running)).toBe(Infinity);
  const span = { fromMs: 0, toMs: 10 };
  expect(workOf(span, Infinity)).toBe(span);
});
