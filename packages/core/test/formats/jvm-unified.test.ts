import fc from 'fast-check';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import { Decorations, findDecorations } from '../../src/formats/jvm-unified/decorations.ts';
import { causeOf, readTimedMessage } from '../../src/formats/jvm-unified/pause-message.ts';
import { readSpaceMessage } from '../../src/formats/jvm-unified/space-message.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { bytesOf, lastRun, readBytes } from './read-input.ts';

const LOG = `[0.006s][info][gc] Using G1
[0.012s][info][gc,init] Version: 17.0.15+6 (release)
[0.012s][info][gc,init] Heap Region Size: 1M
[0.012s][info][gc,init] Heap Max Capacity: 64M
[0.241s][info][gc,start    ] GC(0) Pause Young (Normal) (G1 Evacuation Pause)
[0.263s][info][gc,heap     ] GC(0) Eden regions: 6->0(8)
[0.263s][info][gc,heap     ] GC(0) Old regions: 0->1
[0.263s][info][gc          ] GC(0) Pause Young (Normal) (G1 Evacuation Pause) 6M->2M(64M) 22.797ms
[0.815s][info][gc          ] GC(1) Concurrent Mark Cycle
[0.883s][info][gc          ] GC(1) Pause Remark 40M->21M(64M) 20.546ms
[0.900s][info][gc          ] GC(2) Pause Young (Mixed) (G1 Evacuation Pause) 24M->20M(64M) 3.000ms
[0.910s][info][gc          ] GC(1) Pause Cleanup 23M->23M(64M) 0.040ms
[0.915s][info][gc          ] GC(1) Concurrent Mark Cycle 100.000ms
[1.500s][info][gc          ] GC(3) Pause Full (System.gc()) 30M->10M(64M) 50.000ms
[1.500s][info][gc,cpu      ] GC(3) User=0.00s Sys=0.00s Real=0.05s
[1.600s][info][gc,heap,exit] Heap
`;

test('a G1 log becomes collections, pauses and spaces', () => {
  const recording = lastRun(readBytes(bytesOf(LOG)));
  const { collections, pauses, spaces } = recording.tables;
  expect([recording.collector, recording.runtime, recording.durationMs, recording.limitBytes()]).toEqual([
    'G1',
    'OpenJDK 17.0.15+6 (release)',
    1600,
    64 * 1048576,
  ]);
  expect(Array.from(collections.col.scope.subarray(0, collections.length))).toEqual([
    Scope.young,
    Scope.whole,
    Scope.mixed,
    Scope.whole,
  ]);
  expect(pauses.length).toBe(5);
  expect(collections.col.flags[1]).toBe(CollectionFlag.concurrentCycle);
  expect(collections.col.concurrentMs[1]).toBeCloseTo(100 - 20.546 - 0.04, 9);
  expect([pauses.col.collectionRow[1], pauses.col.collectionRow[3]]).toEqual([1, 1]);
  expect(collections.col.flags[3]).toBe(CollectionFlag.explicit);
  expect([spaces.length, spaces.col.beforeBytes[0], collections.col.promotedBytes[0]]).toEqual([
    2,
    6 * 1048576,
    1048576,
  ]);
  expect(pauses.col.startMs[0]).toBeCloseTo(240.203, 6);
  expect(analysisReport(recording).collections).toMatchObject({
    count: 4,
    young: 1,
    mixed: 1,
    whole: 1,
    concurrentCycles: 1,
  });
});

test('any way of cutting the log gives the same report', () => {
  const bytes = bytesOf(LOG);
  const whole = analysisReport(lastRun(readBytes(bytes)));
  fc.assert(
    fc.property(fc.array(fc.nat(bytes.length), { maxLength: 6 }), (cuts) => {
      expect(analysisReport(lastRun(readBytes(bytes, cuts)))).toEqual(whole);
    }),
    { seed: 3, numRuns: 100 },
  );
});

test('a log cut anywhere never invents a figure', () => {
  const whole = lastRun(readBytes(bytesOf(LOG)));
  const durations = new Set(whole.tables.pauses.col.durationMs.subarray(0, whole.tables.pauses.length));
  for (let length = 500; length < LOG.length; length++) {
    const { pauses } = lastRun(readBytes(bytesOf(LOG.slice(0, length)))).tables;
    for (let row = 0; row < pauses.length; row++) expect(durations.has(pauses.col.durationMs[row]!)).toBe(true);
  }
});

test('arbitrary bytes between good lines never throw and cost no good line', () => {
  const line = '[0.263s][info][gc] GC(0) Pause Young (Allocation Failure) 6M->2M(64M) 2.5ms\n';
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 120 }), (noise) => {
      const recording = lastRun(
        readBytes(Uint8Array.from([...bytesOf(line), ...noise.filter((byte) => byte !== 10), 10, ...bytesOf(line)])),
      );
      expect(recording.tables.pauses.length).toBeGreaterThanOrEqual(2);
    }),
    { seed: 4, numRuns: 500 },
  );
});

test.each([
  ['[0.653s][info][gc] x', 653, NaN],
  ['[2026-11-23T05:55:13.577+0000] x', NaN, Date.UTC(2026, 10, 23, 5, 55, 13, 577)],
  [
    '[2026-11-23T05:55:36.912+0000][2026-11-23T05:55:36.912+0000][0.016s][1795413336912ms][15ms][1824176711129ns][15639163ns][25148][25149][info][gc,init] x',
    15.639163,
    Date.UTC(2026, 10, 23, 5, 55, 36, 912),
  ],
  ['[15ms][info][gc ] x', 15, NaN],
  ['[saltmarsh-host][0.5s][gc] x', 500, NaN],
])('decorations of %s', (line, uptimeMs, epochMs) => {
  const decorations = new Decorations();
  expect(decorations.read(line, 0)).toBe(true);
  expect(Math.round(decorations.uptimeMs)).toBe(Math.round(uptimeMs));
  expect(decorations.epochMs).toBe(epochMs);
  expect(line.slice(decorations.messageAt)).toBe('x');
});

test('decorations are found behind unfinished text of the program', () => {
  expect(findDecorations('reading 5 of 9[0.653s][info][gc] GC(0) Pause')).toBe(14);
  expect(findDecorations('an array [1][2]')).toBe(-1);
});

test.each([
  [
    'Pause Young (Normal) (G1 Evacuation Pause) 6M->2M(64M) 22.797ms',
    ['Pause Young (Normal) (G1 Evacuation Pause)', 22.797, 6 * 1048576, 2 * 1048576],
  ],
  ['Pause Full (System.gc()) 1000K->10K(2G) 5ms', ['Pause Full (System.gc())', 5, 1024000, 10240]],
  ['Pause Remark 1.5ms', ['Pause Remark', 1.5, NaN, NaN]],
])('%s is taken apart', (message, expected) => {
  const timed = readTimedMessage(message)!;
  expect([timed.label, timed.durationMs, timed.beforeBytes, timed.afterBytes]).toEqual(expected);
});

test.each([
  'Pause Young (Normal)',
  'Pause Young 6M->2M(64M)',
  'Pause Young 6M->2M(64M) 22.',
  'Pause Young 6M->2M(64M) ms',
  '',
])('"%s" is no finished pause', (message) => {
  expect(readTimedMessage(message)).toBeNull();
});

test('a cause may hold parentheses', () => {
  expect([
    causeOf('Pause Full (System.gc())'),
    causeOf('Pause Young (Normal) (G1 Evacuation Pause) (Evacuation Failure: Allocation)'),
    causeOf('Pause Remark'),
  ]).toEqual(['System.gc()', 'G1 Evacuation Pause', '']);
});

test('spaces in regions and in kilobytes', () => {
  expect(readSpaceMessage('Eden regions: 6->0(8)', 1048576)).toEqual({
    name: 'Eden',
    beforeBytes: 6291456,
    afterBytes: 0,
  });
  expect(readSpaceMessage('ParOldGen: 904K(44032K)->4376K(44032K)', NaN)).toEqual({
    name: 'ParOldGen',
    beforeBytes: 904 * 1024,
    afterBytes: 4376 * 1024,
    capacityBytes: 44032 * 1024,
  });
  expect(readSpaceMessage('Metaspace: 799K(1024K)->801K(1024K) NonClass: 719K(832K)->719K(832K)', NaN)).toEqual({
    name: 'Metaspace',
    beforeBytes: 799 * 1024,
    afterBytes: 801 * 1024,
    capacityBytes: 1024 * 1024,
  });
  expect(readSpaceMessage('Code cache: 1K->2K', NaN)).toBeNull();
});
