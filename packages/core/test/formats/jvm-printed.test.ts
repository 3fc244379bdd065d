import fc from 'fast-check';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import type { Recording } from '../../src/model/recording.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { bytesOf, lastRun, readBytes } from './read-input.ts';

// There is no JDK 8 to record with here: these lines follow its sources' formats by hand.
const HEAD = `OpenJDK 64-Bit Server VM (25.392-b08) for linux-amd64 JRE (1.8.0_392-b08), built on Nov 23 2023 by "estuary"
Memory: 4k page, physical 24683888k(9463836k free), swap 0k(0k free)
CommandLine flags: -XX:InitialHeapSize=67108864 -XX:MaxHeapSize=268435456 -XX:+PrintGC -XX:+PrintGCDetails -XX:+UseParallelGC 
`;
const PARALLEL = `${HEAD}2026-11-23T05:55:13.577+0000: 0.151: [GC (Allocation Failure) [PSYoungGen: 16384K->2536K(18944K)] 16384K->3440K(62976K), 0.0112300 secs] [Times: user=0.02 sys=0.01, real=0.01 secs] 
2026-11-23T05:55:13.877+0000: 0.451: [GC (Allocation Failure) [PSYoungGen: 18920K->2552K(18944K)] 19824K->7512K(62976K), 0.0182690 secs] [Times: user=0.03 sys=0.00, real=0.02 secs] 
a reading of the tide gauge
2026-11-23T05:55:14.177+0000: 0.751: [Full GC (System.gc()) [PSYoungGen: 2552K->0K(18944K)] [ParOldGen: 4960K->5120K(44032K)] 7512K->5120K(62976K), [Metaspace: 3243K->3243K(1056768K)], 0.0361120 secs] [Times: user=0.05 sys=0.00, real=0.04 secs] 
Heap
 PSYoungGen      total 18944K, used 328K [0x00000000feb00000, 0x0000000100000000, 0x0000000100000000)
`;
const SERIAL = `0.172: [GC (Allocation Failure) 0.172: [DefNew
Desired survivor size 1114112 bytes, new threshold 1 (max 15)
- age   1:    2228208 bytes,    2228208 total
: 17472K->2176K(19648K), 0.0090770 secs] 17472K->4530K(63360K), 0.0091420 secs] [Times: user=0.00 sys=0.01, real=0.01 secs] 
Total time for which application threads were stopped: 0.0093510 seconds, Stopping threads took: 0.0000120 seconds
0.829: [GC (Allocation Failure) 0.829: [DefNew: 19648K->19648K(19648K), 0.0000372 secs]0.829: [Tenured: 42000K->21000K(43712K), 0.0855567 secs] 61648K->21000K(63360K), [Metaspace: 2741K->2741K(1056768K)], 0.0856954 secs] [Times: user=0.08 sys=0.00, real=0.09 secs] 
`;
const CMS = `1.322: [GC (Allocation Failure) 1.322: [ParNew: 17472K->2112K(19648K), 0.0120465 secs] 30000K->15000K(63360K), 0.0121309 secs] [Times: user=0.02 sys=0.00, real=0.01 secs] 
1.335: [GC (CMS Initial Mark) [1 CMS-initial-mark: 12888K(43712K)] 15200K(63360K), 0.0001997 secs] [Times: user=0.00 sys=0.00, real=0.00 secs] 
1.336: [CMS-concurrent-mark-start]
1.376: [CMS-concurrent-mark: 0.035/0.040 secs] [Times: user=0.04 sys=0.00, real=0.04 secs] 
1.376: [CMS-concurrent-preclean-start]
1.378: [CMS-concurrent-preclean: 0.002/0.002 secs] [Times: user=0.00 sys=0.00, real=0.00 secs] 
1.380: [GC (CMS Final Remark) [YG occupancy: 3879 K (19648 K)]1.380: [Rescan (parallel) , 0.0085125 secs]1.388: [weak refs processing, 0.0000150 secs]1.388: [class unloading, 0.0012000 secs][1 CMS-remark: 12888K(43712K)] 16767K(63360K), 0.0110730 secs] [Times: user=0.02 sys=0.00, real=0.01 secs] 
1.391: [CMS-concurrent-sweep-start]
1.401: [CMS-concurrent-sweep: 0.010/0.010 secs] [Times: user=0.01 sys=0.00, real=0.01 secs] 
1.401: [CMS-concurrent-reset-start]
1.403: [CMS-concurrent-reset: 0.002/0.002 secs] [Times: user=0.00 sys=0.00, real=0.00 secs] 
2.100: [GC (Allocation Failure) 2.100: [ParNew (promotion failed): 19648K->19648K(19648K), 0.0200000 secs]2.120: [CMS2.130: [CMS-concurrent-mark: 0.030/0.030 secs] [Times: user=0.03 sys=0.00, real=0.03 secs] 
 (concurrent mode failure): 41000K->22000K(43712K), 0.1100000 secs] 58000K->22000K(63360K), [Metaspace: 2741K->2741K(1056768K)], 0.1301000 secs] [Times: user=0.13 sys=0.00, real=0.13 secs] 
`;
const G1 = `2026-11-23T05:55:13.577+0000: 0.104: [GC pause (G1 Evacuation Pause) (young), 0.0144000 secs]
   [Parallel Time: 8.8 ms, GC Workers: 2]
      [GC Worker Start (ms): Min: 104.8, Avg: 104.8, Max: 104.9, Diff: 0.0]
      [Termination Attempts: Min: 1, Avg: 1.0, Max: 1, Diff: 0, Sum: 2]
   [Code Root Fixup: 0.0 ms]
   [Eden: 24.0M(24.0M)->0.0B(13.0M) Survivors: 0.0B->3072.0K Heap: 24.0M(256.0M)->6080.5K(256.0M)]
 [Times: user=0.04 sys=0.04, real=0.02 secs] 
2026-11-23T05:55:13.777+0000: 0.304: [GC pause (G1 Humongous Allocation) (young) (initial-mark) (to-space exhausted), 0.0200000 secs]
   [Eden: 10.0M(13.0M)->0.0B(13.0M) Survivors: 3072.0K->2048.0K Heap: 120.0M(256.0M)->100.5M(256.0M)]
 [Times: user=0.02 sys=0.00, real=0.02 secs] 
0.324: [GC concurrent-root-region-scan-start]
0.325: [GC concurrent-root-region-scan-end, 0.0010000 secs]
0.325: [GC concurrent-mark-start]
0.345: [GC concurrent-mark-end, 0.0200000 secs]
0.346: [GC remark 0.346: [Finalize Marking, 0.0001000 secs] 0.346: [GC ref-proc, 0.0000400 secs] 0.346: [Unloading, 0.0020000 secs], 0.0045000 secs]
 [Times: user=0.01 sys=0.00, real=0.00 secs] 
0.352: [GC cleanup 133M->120M(256M), 0.0010000 secs]
 [Times: user=0.00 sys=0.00, real=0.00 secs] 
0.700: [GC pause (G1 Evacuation Pause) (mixed) 130M->70M(256M), 0.0110000 secs]
0.900: [Full GC (Allocation Failure)  255M->200M(256M), 0.5000000 secs]
`;

const read = (text: string): Recording => lastRun(readBytes(bytesOf(text)));
const column = (recording: Recording, name: 'startMs' | 'usedAfterBytes' | 'promotedBytes' | 'userMs'): number[] =>
  Array.from(recording.tables.collections.col[name].subarray(0, recording.tables.collections.length));
const scopes = ({ tables: { collections } }: Recording): number[] =>
  Array.from(collections.col.scope.subarray(0, collections.length));
const KIB = 1024;
const MIB = 1024 * KIB;

test('Parallel: pauses, sizes, promotion, processor times, limit and version', () => {
  const recording = read(PARALLEL);
  const report = analysisReport(recording);
  expect(recording.issues.byCode).toEqual({});
  expect(report.pauses).toMatchObject({ count: 3, maxMs: 36.112 });
  expect(report.pauses.totalMs).toBeCloseTo(65.611, 6);
  expect(scopes(recording)).toEqual([Scope.young, Scope.young, Scope.whole]);
  expect(column(recording, 'startMs')).toEqual([151, 451, 751]);
  expect(column(recording, 'usedAfterBytes')).toEqual([3440 * KIB, 7512 * KIB, 5120 * KIB]);
  // Left the young space: 16384 − 2536; left the heap: 16384 − 3440.
  expect(column(recording, 'promotedBytes')).toEqual([904 * KIB, (16368 - 12312) * KIB, NaN]);
  expect(column(recording, 'userMs')).toEqual([20, 30, 50]);
  expect([recording.runtime, recording.collector, recording.limitBytes()]).toEqual([
    'OpenJDK 1.8.0_392-b08',
    'Parallel',
    256 * MIB,
  ]);
  expect(new Date(recording.startEpochMs).toISOString()).toBe('2026-11-23T05:55:13.426Z');
  expect(recording.tables.collections.col.flags[2]! & CollectionFlag.explicit).toBeTruthy();
});

test('Serial: a collection cut by its table of ages, one that became whole, and a stop', () => {
  const recording = read(SERIAL);
  expect(recording.issues.byCode).toEqual({});
  expect(scopes(recording)).toEqual([Scope.young, Scope.whole]);
  expect(column(recording, 'usedAfterBytes')).toEqual([4530 * KIB, 21000 * KIB]);
  const { ages, safepoints, pauses } = recording.tables;
  expect([ages.length, ages.col.age[0], ages.col.bytes[0]]).toEqual([1, 1, 2228208]);
  expect([safepoints.length, safepoints.col.totalMs[0]]).toEqual([1, 9.351]);
  expect(Array.from(pauses.col.durationMs.subarray(0, 2))).toEqual([9.142, 85.6954]);
});

test('CMS: a cycle with its two pauses, and a failed promotion that ended in a collection of all', () => {
  const recording = read(CMS);
  expect(recording.issues.byCode).toEqual({});
  const report = analysisReport(recording);
  expect(report.collections).toMatchObject({ young: 1, whole: 1, concurrentCycles: 1 });
  expect(report.pauses.count).toBe(4);
  const { collections, pauses } = recording.tables;
  expect(collections.col.concurrentMs[1]).toBeCloseTo(54, 6);
  expect(Array.from(pauses.col.collectionRow.subarray(0, 4))).toEqual([0, 1, 1, 2]);
  expect(collections.col.flags[2]! & CollectionFlag.evacuationFailed).toBeTruthy();
  expect([pauses.col.durationMs[3], collections.col.usedAfterBytes[2]]).toEqual([130.1, 22000 * KIB]);
});

test('G1: sizes out of its details, mixed and whole collections, and a concurrent cycle', () => {
  const recording = read(G1);
  expect(recording.issues.byCode).toEqual({});
  const report = analysisReport(recording);
  expect(report.collections).toMatchObject({ young: 2, mixed: 1, whole: 1, concurrentCycles: 1 });
  expect(report.pauses.count).toBe(6);
  expect(Object.keys(report.pauses.byName)).toContain(
    'GC pause (G1 Humongous Allocation) (young) (initial-mark) (to-space exhausted)',
  );
  const { collections } = recording.tables;
  expect([collections.col.usedBeforeBytes[0], collections.col.usedAfterBytes[0]]).toEqual([24 * MIB, 6080.5 * KIB]);
  expect(collections.col.promotedBytes[0]).toBe(Math.max(0, (24 - 3) * MIB - (24 * MIB - 6080.5 * KIB)));
  expect(collections.col.flags[1]! & CollectionFlag.evacuationFailed).toBeTruthy();
  expect(collections.col.concurrentMs[2]).toBeCloseTo(21, 6);
});

test('without stamps the collections keep their order, and no rate is told', () => {
  const recording = read(
    '[GC (Allocation Failure)  16384K->3440K(62976K), 0.0112300 secs]\n[Full GC (Ergonomics)  3440K->1000K(62976K), 0.0200000 secs]\n',
  );
  expect([recording.hasClock, recording.tables.pauses.length]).toEqual([false, 2]);
  expect(analysisReport(recording).pauses.throughputRatio).toBeNull();
});

test('a line that was cut off is left out and counted; a restart is a run of its own', () => {
  const cut = readBytes(bytesOf(`${PARALLEL}${PARALLEL.slice(0, PARALLEL.indexOf('K(62976K), 0.0182690'))}`));
  expect(cut.ok && cut.runs.map((run) => run.tables.pauses.length)).toEqual([3, 1]);
  expect(lastRun(cut).issues.byCode).toEqual({ 'cut-line': 1 });
  expect(lastRun(cut).issues.first[0]!.message).toMatch(
    /^gc log line \d+: expected "\[GC … -> … , … secs\]", found "\[GC \(Allocation Failure\)/,
  );
});

test('any way of cutting the input gives the same rows, and damage never throws', () => {
  const whole = [PARALLEL, SERIAL, CMS, G1].map((text) => analysisReport(read(text)));
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 3 }),
      fc.array(fc.integer({ min: 0, max: 900 }), { maxLength: 6 }),
      (which, cuts) => {
        const bytes = bytesOf([PARALLEL, SERIAL, CMS, G1][which]!);
        expect(
          analysisReport(
            lastRun(
              readBytes(
                bytes,
                cuts.filter((cut) => cut < bytes.length),
              ),
            ),
          ),
        ).toEqual(whole[which]);
      },
    ),
    { seed: 4, numRuns: 40 },
  );
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 3000 }), fc.string(), (which, at, noise) => {
      const text = [PARALLEL, SERIAL, CMS, G1][which]!;
      const spot = at % text.length;
      readBytes(bytesOf(text.slice(0, spot) + noise + text.slice(spot + noise.length)));
    }),
    { seed: 5, numRuns: 200 },
  );
});
