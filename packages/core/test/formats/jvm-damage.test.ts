import { analysisReport } from '../../src/measures/analysis-report.ts';
import { bytesOf, lastRun, readBytes } from './read-input.ts';

const HEAD = '[0.006s][info][gc] Using Serial\n';
const young = (s: string, id: number): string =>
  `[${s}s][info][gc] GC(${id}) Pause Young (Allocation Failure) 6M->2M(64M) 2.500ms\n`;
const read = (text: string) => lastRun(readBytes(bytesOf(text)));

test('a second run glued to a line that was cut off is a run of its own', () => {
  const result = readBytes(
    bytesOf(`${HEAD}${young('1.000', 0)}[2.000s][info][gc] GC(1) Pause Young (Allocat${HEAD}${young('0.500', 0)}`),
  );
  if (!result.ok) throw new Error(result.message);
  expect(result.runs.map((run) => run.tables.pauses.length)).toEqual([1, 1]);
  expect(result.runs[0]!.issues.byCode).toEqual({ 'cut-line': 1 });
  expect(result.runs[0]!.issues.first[0]!.message).toMatch(
    /^gc log line 3: expected the line to end before "\[0\.006s\]/,
  );
});

test('a log without time stamps orders its events and answers nothing that needs a clock', () => {
  const recording = read(
    'Using Serial\nGC(0) Pause Young (Allocation Failure) 6M->2M(64M) 2.500ms\nGC(1) Pause Full (System.gc()) 9M->3M(64M) 20.000ms\n',
  );
  const report = analysisReport(recording);
  expect(report).toMatchObject({
    durationMs: null,
    pauses: { count: 2, totalMs: 22.5, throughputRatio: null, mmu: [] },
    allocation: { bytesPerSec: null },
  });
  expect(report.verdict).toMatchObject({
    kind: 'unclear',
    sentence: expect.stringContaining('written without time stamps') as string,
  });
});

test('of a log with wall clock only, time runs from its first line', () => {
  const stamp = (ms: number): string => new Date(1_800_000_000_000 + ms).toISOString().replace('Z', '+0000');
  const recording = read(
    `[${stamp(0)}] Using Serial\n[${stamp(800)}] GC(0) Pause Young (Allocation Failure) 6M->2M(64M) 2.500ms\n`,
  );
  expect([recording.durationMs, recording.startEpochMs, recording.tables.pauses.col.startMs[0]]).toEqual([
    800, 1_800_000_000_000, 797.5,
  ]);
});

test('a log whose head is missing begins with what it first tells', () => {
  const recording = read(`${young('812.000', 377)}${young('813.000', 378)}`);
  expect(recording.durationMs).toBeCloseTo(1002.5, 6);
  expect(recording.tables.pauses.col.startMs[0]).toBeCloseTo(0, 6);
});

test('text of the program that looks like the log moves neither clock nor counts', () => {
  const recording = read(
    `${HEAD}${young('1.000', 0)}[665.123s][info][gc] tide is high\n${young('2.000', 1)}[900.000s][info][gc] this is the program imitating\n`,
  );
  expect([recording.tables.pauses.length, recording.durationMs]).toEqual([2, 2000]);
});

test('the last line that the collector itself printed ends the recording', () => {
  expect(read(`${HEAD}${young('1.000', 0)}[4.500s][info][gc,heap,exit] Heap\n`).durationMs).toBe(4500);
  expect(
    read(`${HEAD}${young('1.000', 0)}[4.500s][info][gc,cpu] GC(0) User=0.00s Sys=0.00s Real=0.01s\n`).durationMs,
  ).toBe(4500);
});

test('a Shenandoah log that begins inside a cycle keeps its pauses, of no cycle', () => {
  const recording = read(
    `[0.006s][info][gc] Using Shenandoah\n[0.263s][info][gc] GC(0) Pause Init Mark (unload classes) 0.069ms\n`,
  );
  expect([recording.collector, recording.issues.count]).toEqual(['Shenandoah', 0]);
  expect([recording.tables.pauses.length, recording.tables.collections.length]).toEqual([1, 0]);
});

test('a concurrent cycle that never ended is no floor point and no finished cycle', () => {
  const recording = read(
    `[0.006s][info][gc] Using G1\n[0.500s][info][gc] GC(0) Concurrent Mark Cycle\n${young('0.900', 1)}`,
  );
  const report = analysisReport(recording);
  expect(report.collections).toMatchObject({ concurrentCycles: 1, young: 1 });
  expect(report.verdict.floor.wholeCollections).toBe(0);
});

test('explicit collections are known by their cause', () => {
  const recording = read(`${HEAD}[1.500s][info][gc] GC(0) Pause Full (System.gc()) 30M->10M(64M) 50.000ms\n`);
  expect(recording.strings.text(recording.tables.collections.col.causeId[0]!)).toBe('System.gc()');
});
