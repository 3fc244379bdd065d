import fc from 'fast-check';
import { STREAM_SCHEMA, type StreamLine } from '../../src/formats/stream/layout.ts';
import { allocationSteps } from '../../src/analysis/allocation.ts';
import { birthsSeenMs } from '../../src/analysis/births-seen.ts';
import { followedSpan } from '../../src/analysis/growth-moments.ts';
import { isOwnFile, nearestOwnPaths } from '../../src/model/own-frame.ts';
import { CollectionFlag, PauseFlag, PhaseKind, Scope } from '../../src/model/tables.ts';
import { bytesOf, lastRun, readBytes } from './read-input.ts';

const h = '77';
const hello: StreamLine = {
  k: 'hello',
  schema: STREAM_SCHEMA,
  h,
  epochMs: 1_800_000_000_000,
  clockMs: 5_000_000,
  program: 'Weirkeeper',
  runtime: 'OpenJDK 17',
  collector: 'G1',
  interval: 524_288,
  log: 'jvm-unified',
  own: ['org/saltmarsh/'],
};
const stamp = (tMs: number): string =>
  `[${(tMs / 1000).toFixed(3)}s][${BigInt(Math.round((5_000_000 + tMs) * 1e6))}ns][info][gc] `;
const LOG = [
  `${stamp(2)}Using G1`,
  `${stamp(1010)}GC(0) Pause Young (Normal) (G1 Evacuation Pause) 20M->10M(64M) 10.000ms`,
  `${stamp(2040)}GC(1) Pause Full (JvmtiEnv ForceGarbageCollection) 30M->8M(64M) 40.000ms`,
];
const LINES: readonly StreamLine[] = [
  hello,
  { k: 'phase', h, t: 0, kind: 'objects' },
  {
    k: 'frames',
    h,
    first: 0,
    fn: ['Main.main', 'Gate.open', 'Arrays.copyOf'],
    file: ['org/saltmarsh/Main.java', 'org/saltmarsh/Gate.java', 'java/util/Arrays.java'],
    line: [3, 9, 1],
    col: [0, 0, 0],
  },
  { k: 'paths', h, first: 0, parent: [-1, 0, 1], frame: [0, 1, 2] },
  { k: 'types', h, first: 0, name: ['byte[]'] },
  { k: 'threads', h, first: 0, name: ['main'] },
  {
    k: 'born',
    h,
    from: 100,
    to: 200,
    interval: 524_288,
    id: [1, 2],
    path: [2, 1],
    size: [524_288, 16],
    at: [100, 200],
    type: [0, 0],
    thread: [0, 0],
  },
  {
    k: 'gc',
    h,
    t: 1000,
    ms: 10,
    scope: 'young',
    label: 'G1 Young Generation',
    after: 1,
    pools: [['G1 Eden Space', 0]],
  },
  { k: 'log', h, upto: 200, text: `${LOG.slice(0, 2).join('\n')}\n` },
  { k: 'died', h, from: 0, to: 1010, id: [1] },
  { k: 'phase', h, t: 1500, kind: 'deaths' },
  { k: 'interval', h, t: 1600, bytes: 1_048_576 },
  { k: 'gc', h, t: 2000, ms: 40, scope: 'whole', label: 'G1 Old Generation', own: true },
  { k: 'log', h, upto: 300, text: `${LOG[2]!}\n` },
  { k: 'phase', h, t: 3000, kind: 'objects' },
  { k: 'bye', h, t: 4000, reason: 'exit', live: 1 },
];
const TEXT = `${LINES.map((line) => JSON.stringify(line)).join('\n')}\n`;

test('births, deaths and the log of one run are one recording', () => {
  const recording = lastRun(readBytes(bytesOf(TEXT)));
  const { collections, pauses, witnesses, objects, intervals, phases } = recording.tables;
  expect([recording.issues.count, recording.collector, recording.ended]).toEqual([0, 'G1', true]);
  expect([collections.length, pauses.length, witnesses.length]).toEqual([2, 2, 2]);
  expect(Array.from(pauses.col.startMs.subarray(0, 2))).toEqual([1000, 2000]);
  expect(Array.from(collections.col.scope.subarray(0, 2))).toEqual([Scope.young, Scope.whole]);
  expect(Array.from(collections.col.flags.subarray(0, 2))).toEqual([0, CollectionFlag.own]);
  expect(recording.strings.text(collections.col.causeId[0]!)).toBe('G1 Evacuation Pause');
  expect([objects.col.endMs[0], objects.col.lost[0], objects.col.endMs[1]]).toEqual([1010, 0, NaN]);
  expect([intervals.col.tMs[0], intervals.col.bytes[0]]).toEqual([1600, 1_048_576]);
  expect(Array.from(phases.col.kind.subarray(0, 3))).toEqual([PhaseKind.objects, PhaseKind.deaths, PhaseKind.objects]);
  expect(recording.heaps[0]).toMatchObject({ liveAtEnd: 1, startsEmpty: true });
});

test('an object drawn with an interval is seen with probability 1 − e^(−size / interval)', () => {
  const { col } = lastRun(readBytes(bytesOf(TEXT))).tables.objects;
  expect(col.probability[0]).toBeCloseTo(1 - Math.exp(-1), 6);
  expect(col.probability[1]! / (16 / 524_288)).toBeCloseTo(1, 4);
});

test('any cut of the bytes gives the same recording', () => {
  const whole = lastRun(readBytes(bytesOf(TEXT)));
  fc.assert(
    fc.property(fc.array(fc.nat(TEXT.length), { maxLength: 6 }), (cuts) => {
      const cut = lastRun(readBytes(bytesOf(TEXT), cuts));
      expect(cut.tables.pauses.col.startMs.slice(0, 2)).toEqual(whole.tables.pauses.col.startMs.slice(0, 2));
      expect([cut.tables.objects.length, cut.issues.count, cut.lines]).toEqual([2, 0, whole.lines]);
    }),
    { numRuns: 50 },
  );
});

test('without a promise of a log, the recorder tells the collections itself, with its pools', () => {
  const bare = { ...hello, log: undefined };
  const lines = LINES.filter((line) => line.k !== 'log' && line !== hello);
  const { collections, spaces, witnesses } = lastRun(
    readBytes(bytesOf([bare, ...lines].map((line) => JSON.stringify(line)).join('\n'))),
  ).tables;
  expect([collections.length, witnesses.length, spaces.length]).toEqual([2, 0, 1]);
  expect([spaces.col.beforeBytes[0], spaces.col.afterBytes[0]]).toEqual([NaN, 0]);
});

test('a log that nobody promised, or without the clock, costs its lines', () => {
  const bare = { ...hello, log: undefined };
  const refused = lastRun(readBytes(bytesOf(`${JSON.stringify(bare)}\n${JSON.stringify(LINES[8])}\n`)));
  expect(refused.issues.first[0]!.message).toContain('expected a hello that promises a log');
  const clockless = lastRun(
    readBytes(
      bytesOf(
        `${JSON.stringify(hello)}\n${JSON.stringify({ k: 'log', h, upto: 9, text: '[0.5s][info][gc] GC(0) Pause Young (Normal) 2M->1M(6M) 1.000ms\n' })}\n`,
      ),
    ),
  );
  expect(clockless.tables.pauses.length).toBe(0);
});

test('objects stay followed over phases with and without births, and rates know the difference', () => {
  const recording = lastRun(readBytes(bytesOf(TEXT)));
  const span = { fromMs: 0, toMs: 4000 };
  expect(followedSpan(recording, span)).toEqual({ sinceMs: 0, fromMs: 0, toMs: 4000 });
  expect(birthsSeenMs(recording, span)).toBe(2500);
  expect(birthsSeenMs(recording, { fromMs: 2000, toMs: 4000 })).toBe(1000);
});

test('what a heap held before the recorder came is no allocation', () => {
  const grown = (attached: boolean): number =>
    allocationSteps(
      lastRun(
        readBytes(bytesOf([{ ...hello, attached }, ...LINES.slice(1)].map((line) => JSON.stringify(line)).join('\n'))),
      ),
    ).bytes[0]!;
  expect([grown(false), grown(true)]).toEqual([20 * 1024 * 1024, 0]);
});

test('own frames are those of the packages that the recording names', () => {
  const recording = lastRun(readBytes(bytesOf(TEXT)));
  expect(Array.from(nearestOwnPaths(recording))).toEqual([0, 1, 1]);
  expect([
    isOwnFile('com/sun/tools/javac/Main.java'),
    isOwnFile('Weirkeeper.java'),
    isOwnFile('net/weir/Gate.java', ['org/saltmarsh/']),
  ]).toEqual([false, true, false]);
});

test('whatever a line of the stream holds, nothing throws and the rest is read', () => {
  const value = fc.oneof(
    fc.integer(),
    fc.double(),
    fc.string(),
    fc.constant(null),
    fc.array(fc.integer({ min: -2, max: 9 }), { maxLength: 4 }),
    fc.array(fc.string({ maxLength: 3 }), { maxLength: 3 }),
  );
  const members = [
    't',
    'ms',
    'from',
    'to',
    'id',
    'path',
    'size',
    'at',
    'p',
    'interval',
    'type',
    'thread',
    'first',
    'parent',
    'frame',
    'name',
    'kind',
    'text',
    'upto',
    'pools',
    'scope',
    'label',
    'bytes',
    'reason',
    'live',
  ];
  const line = fc.record({
    k: fc.constantFrom(
      'born',
      'died',
      'gc',
      'pause',
      'phase',
      'interval',
      'log',
      'paths',
      'frames',
      'types',
      'size',
      'bye',
      'dance',
    ),
    more: fc.dictionary(fc.constantFrom(...members), value, { maxKeys: 9 }),
  });
  fc.assert(
    fc.property(fc.array(line, { maxLength: 4 }), fc.nat(LINES.length - 1), (bad, at) => {
      const texts = LINES.map((each) => JSON.stringify(each));
      texts.splice(at + 1, 0, ...bad.map(({ k, more }) => JSON.stringify({ k, h, ...more })));
      const recording = lastRun(readBytes(bytesOf(texts.join('\n'))));
      expect(recording.heaps.length).toBe(1);
      expect(recording.tables.pauses.length).toBeGreaterThanOrEqual(2);
      expect(recording.tables.marks.length).toBe(0);
    }),
    { numRuns: 200 },
  );
});

test.each([
  ['an id that begins anew', { k: 'types', h, first: 0, name: ['int[]'] }, 'expected ids to go on at 1'],
  [
    'a path of nobody',
    { k: 'born', h, from: 1, to: 2, id: [9], path: [7], size: [8] },
    'expected paths told before, 1 objects left out',
  ],
  [
    'a death without a birth',
    { k: 'died', h, from: 1, to: 2, id: [99] },
    'expected births before deaths, 1 deaths left out',
  ],
  [
    'columns of different lengths',
    { k: 'born', h, from: 1, to: 2, id: [1, 2], path: [0], size: [8] },
    'the columns must be equally long',
  ],
  [
    'an interval of nothing',
    { k: 'interval', h, t: 1, bytes: 0 },
    'expected a line of brisk-heron/stream@1 at "bytes"',
  ],
])('%s costs its line, and the message says what was expected', (_name, line, message) => {
  const texts = LINES.map((each) => JSON.stringify(each));
  texts.splice(8, 0, JSON.stringify(line));
  const recording = lastRun(readBytes(bytesOf(texts.join('\n'))));
  expect(recording.issues.count).toBe(1);
  expect(recording.issues.first[0]!.message).toContain(message);
  expect(recording.tables.pauses.length).toBe(2);
});

describe('cycles that the recorder forced beside the program', () => {
  const said = (tMs: number, text: string): string => stamp(tMs).replace('[gc] ', `[gc] ${text}`);
  /** Flags of the cycles and of the pauses that a log within a recording tells. */
  const flagsOf = (
    log: readonly string[],
    recorded: boolean,
  ): { cycles: number[]; pauses: number[]; causes: string[] } => {
    const text = `${log.join('\n')}\n`;
    const lines = [hello, { k: 'log', h, upto: 100, text }, { k: 'bye', h, t: 9000, reason: 'exit' }];
    const { tables, strings } = lastRun(
      readBytes(bytesOf(recorded ? `${lines.map((line) => JSON.stringify(line)).join('\n')}\n` : text)),
    );
    const { collections, pauses } = tables;
    return {
      cycles: Array.from(collections.col.flags.subarray(0, collections.length), (each) => each & CollectionFlag.own),
      pauses: Array.from(pauses.col.flags.subarray(0, pauses.length), (each) => each & PauseFlag.own),
      causes: Array.from(collections.col.causeId.subarray(0, collections.length), (id) => strings.text(id)),
    };
  };
  const zCycle = (gcId: number, tMs: number, cause: string): string[] => [
    said(tMs, `GC(${gcId}) Garbage Collection (${cause})`),
    said(tMs + 1, `GC(${gcId}) Pause Mark Start 0.008ms`),
    said(tMs + 7, `GC(${gcId}) Pause Mark End 0.014ms`),
    said(tMs + 9, `GC(${gcId}) Garbage Collection (${cause}) 78M(20%)->8M(2%)`),
  ];
  const shenandoahCycle = (gcId: number, tMs: number, trigger: string): string[] => [
    said(tMs, `Trigger: ${trigger}`),
    said(tMs, `GC(${gcId}) Concurrent reset`),
    said(tMs + 1, `GC(${gcId}) Concurrent reset 1.827ms`),
    said(tMs + 2, `GC(${gcId}) Pause Init Mark (unload classes) 0.033ms`),
    said(tMs + 5, `GC(${gcId}) Pause Final Mark (unload classes) 0.123ms`),
    said(tMs + 6, `GC(${gcId}) Concurrent cleanup 69M->45M(379M) 0.041ms`),
  ];
  const [own, ownPause] = [CollectionFlag.own, PauseFlag.own];

  test('are its own with their pauses, where the log is of a recording (ZGC)', () => {
    const log = [said(2, 'Using The Z Garbage Collector'), ...zCycle(0, 1000, 'Warmup')];
    log.push(...zCycle(1, 2000, 'JvmtiEnv ForceGarbageCollection'), ...zCycle(2, 3000, 'Proactive'));
    expect(flagsOf(log, true)).toMatchObject({ cycles: [0, own, 0], pauses: [0, 0, ownPause, ownPause, 0, 0] });
    expect(flagsOf(log, false).cycles).toEqual([0, 0, 0]);
  });

  test.each(['Explicit GC request', 'GC request'])('are its own by what triggered them: %s (Shenandoah)', (request) => {
    const log = [said(2, 'Using Shenandoah'), ...shenandoahCycle(0, 1000, 'Learning 1 of 5. Free (280M)')];
    log.push(...shenandoahCycle(1, 2000, `${request} (JvmtiEnv ForceGarbageCollection)`));
    log.push(...shenandoahCycle(2, 3000, 'Free (27M) is below minimum threshold (40M)'));
    log.push(...shenandoahCycle(3, 4000, `${request} (System.gc())`));
    expect(flagsOf(log, true)).toEqual({
      cycles: [0, own, 0, 0],
      pauses: [0, 0, ownPause, ownPause, 0, 0, 0, 0],
      causes: ['', 'JvmtiEnv ForceGarbageCollection', '', 'System.gc()'],
    });
    expect(flagsOf(log, false).cycles).toEqual([0, 0, 0, 0]);
  });
});
