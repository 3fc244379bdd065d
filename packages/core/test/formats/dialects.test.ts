import fc from 'fast-check';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import { floorPoints } from '../../src/analysis/floor.ts';
import { InputReader } from '../../src/formats/input-reader.ts';
import { unwrapLine } from '../../src/formats/unwrap-line.ts';
import type { Recording } from '../../src/model/recording.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { bytesOf, lastRun, readBytes } from './read-input.ts';

const read = (text: string): Recording => lastRun(readBytes(bytesOf(text)));
const MIB = 1024 * 1024;

const Z17 = `[0.100s][info][gc] Using The Z Garbage Collector
[0.141s][info][gc,start    ] GC(0) Garbage Collection (System.gc())
[0.141s][info][gc,phases   ] GC(0) Pause Mark Start 0.023ms
[0.145s][info][gc,phases   ] GC(0) Concurrent Mark 4.434ms
[0.146s][info][gc,phases   ] GC(0) Pause Mark End 0.012ms
[0.152s][info][gc          ] GC(0) Garbage Collection (System.gc()) 24M(19%)->8M(6%)
[0.300s][info][gc          ] Allocation Stall (load-0) 25.602ms
`;
const Z25 = `[0.100s][info][gc] Using The Z Garbage Collector
[0.402s][info ][gc          ] GC(0) Major Collection (Warmup)
[0.402s][info ][gc,phases   ] GC(0) Y: Pause Mark Start (Major) 0.032ms
[0.410s][info ][gc          ] GC(1) Minor Collection (Allocation Rate)
[0.415s][info ][gc,phases   ] GC(1) y: Pause Relocate Start 0.010ms
[0.420s][info ][gc          ] GC(1) Minor Collection (Allocation Rate) 30M(23%)->20M(15%) 0.010s
[0.446s][info ][gc,phases   ] GC(0) O: Pause Relocate Start 0.022ms
[0.450s][info ][gc          ] GC(0) Major Collection (Warmup) 26M(20%)->18M(14%) 0.048s
[0.460s][info ][gc          ] GC(2) Minor Collection (Allocation Rate)
`;
const SHENANDOAH = `[0.005s][info][gc] Using Shenandoah
[0.327s][info][gc] GC(0) Concurrent reset 0.048ms
[0.328s][info][gc] GC(0) Pause Init Mark (unload classes) 0.026ms
[0.336s][info][gc] GC(0) Pause Final Mark (unload classes) 0.164ms
[0.342s][info][gc] GC(0) Concurrent cleanup 17M->8M(64M) 0.021ms
[0.355s][info][gc] GC(0) Pause Final Update Refs 0.034ms
[0.358s][info][gc] GC(0) Concurrent cleanup 10M->6M(64M) 0.043ms
[0.442s][info][gc] GC(1) Concurrent reset (Young) 0.050ms
[0.512s][info][gc] GC(2) Pause Degenerated GC (Outside of Cycle) 38M->1M(40M) 16.532ms
`;
const GO = `starting
gc 1 @0.026s 0%: 0.052+0.68+0.003 ms clock, 0.10+0.38/0/0+0.007 ms cpu, 3->4->1 MB, 4 MB goal, 0 MB stacks, 0 MB globals, 2 P
gc 2 @0.057s 0%: 0.038+1.2+0.004 ms clock, 0.076+0.29/0/0+0.008 ms cpu, 5->6->2 MB, 6 MB goal, 2 P (forced)
gc 3 @0.089s 0%: 0.087+2.9+0.003 ms cl`;
const PYTHON = `gc: collecting generation 0...
gc: objects in each generation: 697 0 6523
chatter of the program
gc: done, 693 unreachable, 0 uncollectable, 0.0012s elapsed
gc: done, 1 unreachable, 0 uncollectable, 0.0001s elapsed
gc: collecting generation 2...
gc: done, 3 unreachable, 0 uncollectable, 0.0300s elapsed
`;
const RUBY_RECORD =
  '{"GC_FLAGS":{"major_by":"nofree","gc_by":"method"},"GC_TIME":0.0003937,"GC_INVOKE_TIME":0.130746661,"HEAP_USE_SIZE":719400,"HEAP_TOTAL_SIZE":867080,"HEAP_TOTAL_OBJECTS":21677,"GC_IS_MARKED":true}';
const RUBY_REPORT = `GC 2 invokes.
Index    Invoke Time(sec)       Use Size(byte)     Total Size(byte)         Total Object                    GC Time(ms)
    1               0.130               719400               867080                21677         0.39370100000000002
    2               0.139               743080              1194280                29857         0.60856300000000003
`;
const PAIRS =
  '[9184:0x7f44900]      124 ms: pause=6.8 mutator=106.1 gc=s reduce_memory=0 total_size_before=4338456 total_size_after=3549392 holes_size_before=776 \n[9184:0x7f44900]     1114 ms: pause=20.1 mutator=37.2 gc=mc total_size_before=4338128 total_size_after=3691632 holes=1 \n[9184:0x7f44900]     1200 ms: pause=20.1 mutator=37.2 gc=mc total_size_before=43381';

test('a ZGC collection is a cycle with pauses of its own, and tells its sizes itself', () => {
  const { tables, strings, freesConcurrently } = read(Z17);
  const { col } = tables.collections;
  expect([tables.collections.length, tables.pauses.length, tables.releases.length, freesConcurrently]).toEqual([
    1,
    2,
    1,
    true,
  ]);
  expect([col.startMs[0], col.endMs[0], col.usedBeforeBytes[0], col.usedAfterBytes[0]]).toEqual([
    141,
    152,
    24 * MIB,
    8 * MIB,
  ]);
  expect(col.flags[0]).toBe(
    CollectionFlag.concurrentCycle | CollectionFlag.ownSizes | CollectionFlag.endPrinted | CollectionFlag.explicit,
  );
  expect(strings.text(col.causeId[0]!)).toBe('System.gc()');
  expect(Array.from(tables.pauses.col.collectionRow.subarray(0, 2))).toEqual([0, 0]);
});

test('a stall of one thread is no pause', () => {
  const recording = read(Z17);
  const { stalls } = recording.tables;
  expect([recording.strings.text(stalls.col.threadId[0]!), stalls.col.durationMs[0], stalls.col.startMs[0]]).toEqual([
    'load-0',
    25.602,
    300 - 25.602,
  ]);
  expect(analysisReport(recording)).toMatchObject({ pauses: { count: 2 }, stalls: { count: 1, totalMs: 25.602 } });
});

test('of generational ZGC, minor collections lie inside major ones, and one under way is not counted', () => {
  const recording = read(Z25);
  const report = analysisReport(recording);
  expect(report.collections).toMatchObject({ concurrentCycles: 2, whole: 0 });
  expect(Array.from(recording.tables.collections.col.scope.subarray(0, 3))).toEqual([
    Scope.whole,
    Scope.young,
    Scope.young,
  ]);
  expect(Object.keys(report.pauses.byName)).toEqual([
    'Y: Pause Mark Start (Major)',
    'y: Pause Relocate Start',
    'O: Pause Relocate Start',
  ]);
  expect(Array.from(recording.tables.pauses.col.collectionRow.subarray(0, 3))).toEqual([0, 1, 0]);
});

test('a Shenandoah cycle gives back twice, and a degenerated collection is neither whole nor a cycle', () => {
  const recording = read(SHENANDOAH);
  const report = analysisReport(recording);
  expect(report.collections).toMatchObject({ concurrentCycles: 2, degenerated: 1, whole: 0 });
  expect(report.pauses.count).toBe(4);
  expect([report.heap.peakUsedBytes, report.heap.lastUsedAfterBytes]).toEqual([38 * MIB, MIB]);
  expect(report.allocation).toMatchObject({ totalBytes: (17 + 2 + 32) * MIB, lowerBound: true });
  const { floor } = { floor: floorPoints(recording, { fromMs: 0, toMs: 1000 }) };
  expect(recording.tables.collections.col.usedAfterBytes[0]).toBe(6 * MIB);
  expect(floor.wholeCollections).toBeGreaterThan(0);
});

test("Go's cycles have one pause each, as its runtime counts, and are forced when they say so", () => {
  const recording = read(GO);
  const report = analysisReport(recording);
  expect(report.source).toMatchObject({ format: 'go-trace', issues: { count: 1, byCode: { 'cut-line': 1 } } });
  expect([report.pauses.count, report.pauses.maxMs]).toEqual([2, 0.055]);
  expect(report.collections).toMatchObject({ concurrentCycles: 2, whole: 0 });
  expect([report.heap.peakUsedBytes, report.heap.lastUsedAfterBytes]).toEqual([6 * MIB, 2 * MIB]);
  expect(report.allocation!.totalBytes).toBe((3 + 4) * MIB);
});

test('CPython: generations, without clock or sizes; an end without its beginning is left out', () => {
  const recording = read(PYTHON);
  const report = analysisReport(recording);
  expect(report.source).toMatchObject({ format: 'cpython-gc', issues: { byCode: { 'cut-line': 1 } } });
  expect(report.pauses.byName).toMatchObject({
    'generation 0': { count: 1, totalMs: 1.2 },
    'generation 2': { count: 1, totalMs: 30 },
  });
  expect([report.collections.young, report.collections.whole, report.durationMs]).toEqual([1, 1, null]);
});

test.each([
  ['a record a line', `${RUBY_RECORD}\n`, 1],
  ['one array', `[${RUBY_RECORD},${RUBY_RECORD}]\n`, 2],
])("Ruby's raw data, %s", (_name, text, count) => {
  const report = analysisReport(read(text));
  expect(report.source.format).toBe('ruby-profiler');
  expect([report.pauses.count, report.pauses.maxMs, report.collections.whole, report.heap.peakUsedBytes]).toEqual([
    count,
    0.3937,
    count,
    719_400,
  ]);
});

test("Ruby's printed report, and a record that is cut off", () => {
  expect(analysisReport(read(RUBY_REPORT))).toMatchObject({
    source: { format: 'ruby-profiler' },
    pauses: { count: 2, maxMs: 0.608563 },
  });
  expect(read(`${RUBY_RECORD}\n${RUBY_RECORD.slice(0, 90)}`).issues.byCode).toEqual({ 'cut-line': 1 });
});

test("V8's lines of names and values are read like its others; a cut figure is not used", () => {
  const recording = read(PAIRS);
  const report = analysisReport(recording);
  expect(report.pauses.byName).toMatchObject({
    Scavenge: { count: 1, totalMs: 6.8 },
    'Mark-Compact': { count: 1, totalMs: 20.1 },
  });
  expect([report.heap.peakUsedBytes, report.heap.lastUsedAfterBytes, report.source.issues.byCode]).toEqual([
    4_338_456,
    3_691_632,
    { 'cut-line': 1 },
  ]);
});

test('of a log that names no pauses, what collecting cost is not known', () => {
  const report = analysisReport(
    read(
      '[0.1s][info][gc] Using The Z Garbage Collector\n[0.6s][info][gc] GC(0) Garbage Collection (Warmup) 16M(12%)->10M(8%)\n[0.9s][info][gc] GC(1) Garbage Collection (Warmup) 26M(20%)->14M(11%)\n',
    ),
  );
  expect([report.pauses.count, report.pauses.throughputRatio, report.pauses.mmu]).toEqual([0, null, []]);
  expect(report.collections.concurrentCycles).toBe(2);
});

test('Epsilon tells sizes alone', () => {
  const text =
    '[0.006s][info][gc] Using Epsilon\n[0.387s][info][gc] Heap: 98304K reserved, 98304K (100.00%) committed, 4948K (5.03%) used\n[0.5s][info][gc] Heap: 98304K reserved, 98304K (100.00%) comm\n';
  const recording = read(text);
  expect([
    recording.tables.sizes.length,
    recording.tables.sizes.col.usedBytes[0],
    recording.tables.pauses.length,
  ]).toEqual([1, 4948 * 1024, 0]);
});

test('lines are taken out of what containers and shippers made of them', () => {
  const wrap = (name: string): string =>
    Z17.trim()
      .split('\n')
      .map((line) => JSON.stringify({ time: 'now', [name]: `${line}\n` }))
      .join('\n');
  for (const name of ['log', 'message', 'MESSAGE', 'msg']) expect(read(wrap(name)).tables.pauses.length).toBe(2);
  expect(unwrapLine('{"k":"log","h":"1","text":"x"}')).toBe('{"k":"log","h":"1","text":"x"}');
  expect([unwrapLine('{broken}'), unwrapLine('[0.1s] x'), unwrapLine('{"a":1}')]).toEqual([
    '{broken}',
    '[0.1s] x',
    '{"a":1}',
  ]);
});

test.each([
  ['ZGC', Z17],
  ['generational ZGC', Z25],
  ['Shenandoah', SHENANDOAH],
  ['Go', GO],
  ['CPython', PYTHON],
  ['Ruby', RUBY_REPORT],
  ['V8', PAIRS],
])('%s: any cut of the bytes gives the same, and noise never throws', (_name, text) => {
  const whole = read(text);
  fc.assert(
    fc.property(fc.array(fc.nat(text.length), { maxLength: 5 }), (cuts) => {
      const cut = lastRun(readBytes(bytesOf(text), cuts));
      expect([cut.tables.collections.length, cut.tables.pauses.length, cut.issues.count]).toEqual([
        whole.tables.collections.length,
        whole.tables.pauses.length,
        whole.issues.count,
      ]);
    }),
    { numRuns: 30 },
  );
  fc.assert(
    fc.property(fc.nat(text.length), fc.string({ maxLength: 12 }), (at, noise) => {
      const reader = new InputReader();
      reader.write(bytesOf(text.slice(0, at) + noise + text.slice(at + noise.length)));
      reader.end();
    }),
    { numRuns: 100 },
  );
});
