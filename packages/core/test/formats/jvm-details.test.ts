import { analysisReport } from '../../src/measures/analysis-report.ts';
import type { Recording } from '../../src/model/recording.ts';
import { CollectionFlag } from '../../src/model/tables.ts';
import { bytesOf, lastRun, readBytes } from './read-input.ts';

const read = (text: string): Recording => lastRun(readBytes(bytesOf(text)));
const runs = (text: string): readonly Recording[] => {
  const result = readBytes(bytesOf(text));
  if (!result.ok) throw new Error(result.message);
  return result.runs;
};
const young = (stamp: string, id: number, ms = '1.500', prefix = ''): string =>
  `${prefix}[${stamp}s][info][gc] GC(${id}) Pause Young (Normal) (G1 Evacuation Pause) 6M->2M(64M) ${ms}ms\n`;
const HEAD = '[0.006s][info][gc] Using G1\n';

test('processor times, ages and spaces belong to their collection', () => {
  const { tables, strings } =
    read(`${HEAD}[0.200s][trace][gc,age      ] GC(0) - age   1:    1015824 bytes,    1015824 total
[0.200s][trace][gc,age      ] GC(0) - age   2:     100000 bytes,    1115
[0.200s][info][gc,heap     ] GC(0) Survivor regions: 0->1(1)
${young('0.201', 0)}[0.201s][info][gc,cpu] GC(0) User=0.02s Sys=0.01s Real=0.03s
[0.205s][info][gc] GC(1) Pause Remark 4M->4M(64M) 2.000ms
[0.205s][info][gc,cpu] GC(1) User=0.01s Sys=0.00s Real=0.0`);
  const { collections, ages } = tables;
  expect([
    collections.col.userMs[0],
    collections.col.sysMs[0],
    collections.col.realMs[0],
    collections.col.userMs[1],
  ]).toEqual([20, 10, 30, NaN]);
  // The row that was cut off is left out.
  expect([ages.length, ages.col.bytes[0], ages.col.collectionRow[0]]).toEqual([1, 1015824, 0]);
  expect(strings.text(collections.col.causeId[0]!)).toBe('G1 Evacuation Pause');
});

test.each([
  [
    '[3.871s][info][gc] GC(5) To-space exhausted\n[3.900s][info][gc] GC(5) Pause Young (Normal) (G1 Evacuation Pause) 89M->71M(96M) 3.057ms\n',
  ],
  [
    '[3.900s][info][gc] GC(5) Pause Young (Normal) (G1 Evacuation Pause) (Evacuation Failure: Allocation) 89M->71M(96M) 3.057ms\n',
  ],
])('a collection whose survivors found no room is marked', (lines) => {
  const { collections } = read(HEAD + lines).tables;
  expect(collections.col.flags[0]! & CollectionFlag.evacuationFailed).toBeTruthy();
});

test('safepoints of JDK 9, 17 and 25; alone, those of the collector are the pauses', () => {
  const recording =
    read(`[0.426s][info][safepoint] Safepoint "G1CollectForAllocation", Time since last: 324117695 ns, Reaching safepoint: 6973 ns, Cleanup: 24688 ns, At safepoint: 4514790 ns, Total: 4546451 ns
[0.605s][info][safepoint] Safepoint "ThreadDump", Time since last: 500030546 ns, Reaching safepoint: 8135 ns, At safepoint: 16278654 ns, Leaving safepoint: 3123 ns, Total: 16289912 ns, Threads: 0 runnable, 11 total
[0.992s][info][safepoint] Safepoint "G1CollectFull", Time since last: 380341196 ns, Reaching safepoint: 6962 ns, At safepoint: 6871668 ns, Leaving safepoint: 3076 ns, Total: 68817
`);
  const { safepoints, pauses } = recording.tables;
  expect(recording.issues.byCode).toEqual({ 'cut-line': 1 });
  expect([safepoints.length, safepoints.col.totalMs[1], safepoints.col.reachMs[0]]).toEqual([2, 16.289912, 0.006973]);
  expect([pauses.length, pauses.col.durationMs[0]]).toEqual([1, 4.546451]);
  expect(
    read(
      `${HEAD}${young('1.000', 0)}[1.000s][info][safepoint] Total time for which application threads were stopped: 0.0093510 seconds, Stopping threads took: 0.0000120 seconds\n`,
    ).tables.safepoints.col.reachMs[0],
  ).toBe(0.012);
});

test('how long threads were slowed down, without the totals', () => {
  const { pacing } = read(`[0.005s][info][gc] Using Shenandoah
[0.300s][info][gc] GC(0) Concurrent reset 0.048ms
[0.374s][info][gc,stats    ] Allocation pacing accrued:
[0.374s][info][gc,stats    ]      93 of   358 ms ( 26.0%): load-0
[0.374s][info][gc,stats    ]      94 of   358 ms ( 26.3%): a thread of mine
[0.374s][info][gc,stats    ]     284 of   358 ms ( 79.3%): <total>
[0.400s][info][gc,stats    ]      94 of   35`).tables;
  expect([pacing.length, pacing.col.pacedMs[1], pacing.col.fromMs[0], pacing.col.toMs[0]]).toEqual([2, 94, 16, 374]);
});

test('a block of lines that is there twice counts once', () => {
  const block = [0, 1, 2, 3].map((id) => young(`${id + 1}.000`, id, `1.${id}00`)).join('');
  const recording = read(`${HEAD}${block}${block}${young('9.000', 4)}`);
  expect(recording.tables.pauses.length).toBe(5);
  expect(recording.issues.byCode).toEqual({ 'repeated-line': 4 });
});

test('two programs in one file are told apart by their process', () => {
  const a = (stamp: string, id: number): string =>
    `[${stamp}s][100][7][info][gc] GC(${id}) Pause Young (Normal) (G1 Evacuation Pause) 6M->2M(64M) 1.000ms\n`;
  const b = (stamp: string, id: number): string =>
    `[${stamp}s][200][9][info][gc] GC(${id}) Pause Young (Normal) (G1 Evacuation Pause) 9M->3M(64M) 2.000ms\n`;
  const found = runs(
    `[0.006s][100][7][info][gc] Using G1\n[0.007s][200][9][info][gc] Using G1\n${a('1.000', 0)}${b('1.100', 0)}${a('2.000', 1)}${b('2.100', 1)}${b('3.100', 2)}`,
  );
  expect(found.map(({ tables }) => [tables.pauses.length, tables.pauses.col.durationMs[0]])).toEqual([
    [2, 1],
    [3, 2],
  ]);
});

test('two programs in one file are told apart by the clock of their start', () => {
  const line = (second: number, uptime: string, id: number): string =>
    `[2026-11-23T05:55:${second.toString().padStart(2, '0')}.000+0000]${young(uptime, id).trim()}\n`;
  const head = (second: number): string => `[2026-11-23T05:55:${second.toString().padStart(2, '0')}.006+0000]${HEAD}`;
  const found = runs(
    `${head(10)}${line(11, '1.000', 0)}${head(20)}${line(21, '1.000', 0)}${line(22, '12.000', 1)}${line(23, '3.000', 1)}${line(24, '14.000', 2)}`,
  );
  expect(found.map(({ tables }) => tables.pauses.length)).toEqual([3, 2]);
});

test('programs that nothing tells apart are said to be mixed', () => {
  const mixed = [10, 11, 12, 13, 14].map((id) => young(`${id}.100`, id) + young(`${id}.500`, id - 9)).join('');
  const recording = read(HEAD + mixed);
  expect(recording.issues.byCode).toEqual({ 'programs-mixed': 1 });
  expect(recording.issues.first[0]!.message).toMatch(/give each program a file of its own, or add pid/);
  expect(recording.tables.pauses.length).toBe(10);
});

const PLAIN = `${HEAD}${young('1.000', 0)}${young('2.000', 1)}`;
const behind = (prefix: string): string =>
  PLAIN.split('\n')
    .filter((line) => line !== '')
    .map((line) => `${prefix}${line}\n`)
    .join('');
const wide = (text: string, littleEndian: boolean, mark: boolean): Uint8Array =>
  Uint8Array.from(
    (mark ? `\ufeff${text}` : text).split('').flatMap((char) => {
      const [low, high] = [char.charCodeAt(0) & 255, char.charCodeAt(0) >> 8];
      return littleEndian ? [low, high] : [high, low];
    }),
  );

test.each([
  ['a container runtime', bytesOf(behind('2026-11-23T05:55:13.577123456Z stdout F '))],
  ['a journal', bytesOf(behind('Nov 23 05:55:13 estuary tidewatch[812]: '))],
  ['a journal with dates', bytesOf(behind('2026-11-23T05:55:13+0000 estuary tidewatch[812]: '))],
  ['services side by side', bytesOf(behind('tidewatch-1  | '))],
  ['UTF-8 with a mark', bytesOf(`\ufeff${PLAIN}`)],
  ['UTF-16, little end first', wide(PLAIN, true, true)],
  ['UTF-16, big end first', wide(PLAIN, false, true)],
  ['UTF-16 without a mark', wide(PLAIN, true, false)],
])('the same log out of %s', (_name, bytes) => {
  const wanted = analysisReport(read(PLAIN));
  for (const cuts of [[], [1], [3, 64, 65, 101]]) {
    const report = analysisReport(lastRun(readBytes(bytes, cuts)));
    expect(report.pauses).toEqual(wanted.pauses);
    expect(report.source.lines).toBe(wanted.source.lines);
  }
});

test('what V8 says of its spaces belongs to the collection before', () => {
  const { tables, strings } =
    read(`[19462:0x345b1b50]       45 ms: Scavenge 3.8 (4.0) -> 3.4 (5.0) MB, 2.09 / 0.00 ms  (average mu = 1.000, current mu = 1.000) allocation failure; 
[19462:0x345b1b50] Memory allocator,       used:   5096 KB, available: 109592 KB
[19462:0x345b1b50] New space,              used:    508 KB, available:    498 KB, committed:   2048 KB
[19462:0x345b1b50] Old space,              used:   2476 KB, available:      7 KB, committed:   2528 KB
[19462:0x345b1b50] Total time spent in GC  : 2.1 ms
`);
  const { spaces } = tables;
  expect(
    Array.from({ length: spaces.length }, (_, row) => [
      strings.text(spaces.col.nameId[row]!),
      spaces.col.afterBytes[row],
      spaces.col.collectionRow[row],
    ]),
  ).toEqual([
    ['New space', 508 * 1024, 0],
    ['Old space', 2476 * 1024, 0],
  ]);
});
