import fc from 'fast-check';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import { readTraceLine } from '../../src/formats/v8-trace/trace-line.ts';
import { bytesOf, lastRun, readBytes } from './read-input.ts';

const LOG = `tidewatch is listening
[88:0x2b94]       48 ms: Scavenge 4.1 (4.2) -> 3.4 (5.2) MB, 0.88 / 0.00 ms  (average mu = 1.000, current mu = 1.000) allocation failure; 
[88:0x2b94]      500 ms: Mark-Compact 14.1 (16.0) -> 9.4 (15.2) MB, 3.51 / 0.01 ms  (+ 2.1 ms in 5 steps since start of marking, biggest step 0.9 ms, walltime since start of marking 9 ms) (average mu = 0.99, current mu = 0.99) finalize incremental marking via task; GC in old space requested
[88:0x7f97]       74 ms: Scavenge 3.4 (3.5) -> 3.0 (4.5) MB, 1.23 / 0.00 ms  (average mu = 1.000, current mu = 1.000) allocation failure; 
[88:0x2b94]      900 ms: Mark-Compact (reduce) 9.9 (16.0) -> 9.1 (12.2) MB, 2.50 / 0.00 ms  (average mu = 1.000, current mu = 1.000) testing; 
<--- Last few GCs --->
[88:0x2b94]      900 ms: Mark-Compact (reduce) 9.9 (16.0) -> 9.1 (12.2) MB, 2.50 / 0.00 ms  (average mu = 1.000, current mu = 1.000) testing; 
<--- JS stacktrace --->
`;

test('isolates are heaps, and what a crash repeats is told once', () => {
  const recording = lastRun(readBytes(bytesOf(LOG)));
  const report = analysisReport(recording);
  expect(recording.heaps.map((heap) => heap.name)).toEqual(['main', 'isolate 2']);
  expect(report.pauses).toMatchObject({
    count: 4,
    maxMs: 3.51,
    byName: { Scavenge: { count: 2 }, 'Mark-Compact': { count: 1 }, 'Mark-Compact (reduce)': { count: 1 } },
  });
  expect(report.collections).toMatchObject({ young: 2, whole: 2 });
  expect(report.source.issues.byCode).toEqual({ 'repeated-line': 1 });
  expect(report.durationMs).toBe(900);
});

test("a worker's clock is placed behind what was printed before it", () => {
  const { pauses } = lastRun(readBytes(bytesOf(LOG))).tables;
  expect(pauses.col.startMs[2]! + pauses.col.durationMs[2]!).toBe(500);
});

test('sizes and the reason are read', () => {
  expect(readTraceLine(LOG.split('\n')[2]!)).toMatchObject({
    label: 'Mark-Compact',
    usedBeforeMb: 14.1,
    usedAfterMb: 9.4,
    committedMb: 15.2,
    pauseMs: 3.51,
    stampMs: 500,
  });
  expect(readTraceLine(LOG.split('\n')[1]!)!.reason).toBe('allocation failure');
});

test('a line cut before its duration ends is left out and counted', () => {
  const recording = lastRun(
    readBytes(bytesOf(`${LOG}[88:0x2b94]     1200 ms: Scavenge 4.1 (4.2) -> 3.4 (5.2) MB, 0.8`)),
  );
  expect(recording.tables.pauses.length).toBe(4);
  expect(recording.issues.byCode).toEqual({ 'repeated-line': 1, 'cut-line': 1 });
  expect(recording.issues.first[1]).toMatchObject({
    line: 9,
    message: expect.stringContaining('is the line cut off?') as string,
  });
});

test('any way of cutting the log gives the same report', () => {
  const bytes = bytesOf(LOG);
  const whole = analysisReport(lastRun(readBytes(bytes)));
  fc.assert(
    fc.property(fc.array(fc.nat(bytes.length), { maxLength: 6 }), (cuts) => {
      expect(analysisReport(lastRun(readBytes(bytes, cuts)))).toEqual(whole);
    }),
    { seed: 5, numRuns: 100 },
  );
});
