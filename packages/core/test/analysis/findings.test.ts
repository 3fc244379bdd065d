import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { findProblems } from '../../src/analysis/findings/find-problems.ts';
import type { Finding } from '../../src/analysis/findings/finding.ts';
import type { Recording } from '../../src/model/recording.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { wholeSpan } from '../../src/model/whole-span.ts';
import { addCollection, recordingOf, type TestCollection } from '../build-recording.ts';
import { fileBytes, lastRun, readBytes } from '../formats/read-input.ts';

const MIB = 1024 * 1024;
const problems = (recording: Recording, goalMs?: number): readonly Finding[] =>
  findProblems(recording, wholeSpan(recording), goalMs);
const find = (recording: Recording, code: string, goalMs?: number): Finding | undefined =>
  problems(recording, goalMs).find((each) => each.code === code);
const many = (count: number, each: (n: number) => TestCollection): TestCollection[] =>
  Array.from({ length: count }, (_, n) => each(n));
const calm = (n: number): TestCollection => ({
  startMs: n * 1000 + 500,
  ms: 5,
  before: 40 * MIB,
  after: 10 * MIB,
  scope: Scope.young,
});

test('a program that collects calmly has no findings', () => {
  expect(problems(recordingOf(many(60, calm), 60_000))).toEqual([]);
});

test('whole-heap collections that pile up: how much they give back, how often they come, and since when', () => {
  const found = find(
    recordingOf(
      many(20, (n) => ({ startMs: 250_000 + n * 900, ms: 300, before: 100 * MIB, after: 97 * MIB })),
      270_000,
    ),
    'storm',
  )!;
  expect(found.sentence).toBe('Whole-heap collections give back 3.0 % and come every 900 ms since 4:10: 20 of them.');
  expect([found.certainty, found.costMs, found.moments.length, found.moments[0]!.fromMs]).toEqual([
    'certain',
    6000,
    1,
    250_000,
  ]);
  expect(found.advice).toContain('full of live objects');
});

test('collections of two heaps are no storm together, nor are those of a log without a clock', () => {
  const recording = recordingOf([], 10_000);
  recording.addHeap('worker');
  for (let n = 0; n < 6; n++)
    addCollection(recording, {
      startMs: n * 3000 + (n % 2) * 1500,
      ms: 100,
      before: 50 * MIB,
      after: 10 * MIB,
      heapId: n % 2,
    });
  expect(find(recording, 'storm')).toBeUndefined();
  const clockless = recordingOf(many(8, (n) => ({ startMs: n, ms: 1, before: 50 * MIB, after: 10 * MIB })));
  clockless.hasClock = false;
  expect(find(clockless, 'storm')).toBeUndefined();
});

test('explicit collections are counted, with their pauses', () => {
  const found = find(
    recordingOf(
      many(10, (n) => ({ ...calm(n), flags: n % 2 ? CollectionFlag.explicit : 0 })),
      10_000,
    ),
    'explicit',
  )!;
  expect(found.sentence).toBe('5 explicit collections, all from the program, every 2.0 s; 25.0 ms of pauses.');
  expect(found.moments.every(({ pauseRow }) => pauseRow % 2 === 1)).toBe(true);
});

test("the recorder's own collections are no explicit ones", () => {
  expect(
    problems(
      recordingOf(
        many(30, (n) => ({
          startMs: n * 100,
          ms: 80,
          before: 40 * MIB,
          after: 39.9 * MIB,
          flags: CollectionFlag.own | CollectionFlag.explicit,
        })),
        3000,
      ),
    ),
  ).toEqual([]);
});

/** A recording whose old space fills with what its whole collections find dead; `forced` may be the recorder's own. */
function promoting(forced: number): ReturnType<typeof recordingOf> {
  const recording = recordingOf(
    many(40, (n) => ({
      ...calm(n),
      scope: n % 10 === 9 ? Scope.whole : Scope.young,
      flags: n === forced ? CollectionFlag.own : 0,
    })),
    40_000,
  );
  const { spaces } = recording.tables;
  let old = 10 * MIB;
  for (let row = 0; row < 40; row++) {
    const space = spaces.addRow();
    const after = row % 10 === 9 ? 10 * MIB + 4 * MIB * ((row + 1) / 10) : old + 2 * MIB;
    spaces.col.collectionRow[space] = row;
    spaces.col.nameId[space] = recording.intern('ParOldGen');
    spaces.col.beforeBytes[space] = old;
    spaces.col.afterBytes[space] = after;
    old = after;
  }
  return recording;
}

test('what dies soon after promotion, of what the log tells of the old space', () => {
  const found = find(promoting(-1), 'dies-after-promotion')!;
  // Nine times two a stretch go in; all but four of them go out again.
  expect(found.sentence).toContain('Up to 78 % of what is promoted dies');
  expect(found.sentence).toContain('56.0 MiB of 72.0 MiB');
  expect([found.certainty, found.moments.length]).toEqual(['likely', 4]);
  // A recorder that forces collections promotes early: then nothing is said.
  expect(find(promoting(19), 'dies-after-promotion')).toBeUndefined();
});

test('long pauses of one kind, against the goal that was chosen', () => {
  const recording = recordingOf(
    many(30, (n) => ({
      ...calm(n),
      ms: n % 5 === 0 ? 60 : 5,
      label: n % 5 === 0 ? 'Pause Remark' : 'Pause Young (Normal)',
    })),
    30_000,
  );
  expect(find(recording, 'long-pauses')).toBeUndefined();
  const found = find(recording, 'long-pauses', 50)!;
  expect(found.sentence).toBe('All 6 pauses over 50.0 ms are “Pause Remark”, the longest 60.0 ms.');
  expect(found.advice).toContain('references');
});

test('threads that waited for a processor', () => {
  const recording = recordingOf(
    many(20, (n) => ({ ...calm(n), ms: 100 })),
    20_000,
  );
  const { col } = recording.tables.collections;
  for (let row = 0; row < 20; row++) [col.userMs[row], col.sysMs[row], col.realMs[row]] = [row < 8 ? 20 : 180, 0, 100];
  expect(find(recording, 'starved')!.sentence).toContain(
    'In 8 of 20 collections over 50 ms the collector’s threads ran for 20 % of the time',
  );
});

test('threads that take long to stop, and stops for something else', () => {
  const recording = recordingOf(many(20, calm), 20_000);
  const { safepoints } = recording.tables;
  for (let n = 0; n < 6; n++) {
    const row = safepoints.addRow();
    [safepoints.col.startMs[row], safepoints.col.reachMs[row], safepoints.col.totalMs[row]] = [
      n * 1000,
      n < 4 ? 30 : 0.1,
      50,
    ];
    safepoints.col.operationId[row] = recording.intern(n < 4 ? 'G1CollectForAllocation' : 'ThreadDump');
  }
  expect(find(recording, 'slow-to-stop')!.sentence).toContain('4 times it took 30.0 ms');
  expect(find(recording, 'other-stops')).toBeUndefined();
  for (let n = 0; n < 2; n++) {
    const row = safepoints.addRow();
    [safepoints.col.startMs[row], safepoints.col.reachMs[row], safepoints.col.totalMs[row]] = [8000 + n, 0.1, 50];
    safepoints.col.operationId[row] = recording.intern('ThreadDump');
  }
  expect(find(recording, 'other-stops')!.sentence).toContain(
    '4 stops of at least 10 ms were not for collecting (ThreadDump): 200 ms',
  );
});

test('the costliest comes first', () => {
  const costs = problems(
    recordingOf(
      many(60, (n) => ({
        startMs: n * 300,
        ms: 90,
        before: 100 * MIB,
        after: 99 * MIB,
        flags: n < 5 ? CollectionFlag.explicit : 0,
      })),
      18_000,
    ),
  ).map((each) => each.costMs);
  expect(costs.length).toBeGreaterThan(2);
  expect(costs).toEqual([...costs].sort((a, b) => b - a));
});

const CORPUS = join(__dirname, '../../../../../shared/corpus/logs');
const known: readonly (readonly [string, readonly string[], readonly string[]])[] = [
  ['jdk25-g1-jcmd.log', ['diagnostic'], ['storm', 'explicit', 'stalls']],
  ['jdk25-z-sysgc.log', ['explicit'], ['storm', 'little-room']],
  ['jdk17-g1-humongous-conc.log', ['humongous'], ['storm', 'explicit']],
  ['jdk17-g1-exitonoom.log', ['storm', 'evacuation-failure', 'little-room'], ['explicit']],
  ['jdk17-shen-degen.log.gz', ['degenerated', 'pacing'], ['explicit', 'stalls']],
  ['jdk17-z-stall-gc.log', ['stalls'], ['explicit', 'storm']],
  ['jdk25-parallel-metaspace.log', ['outside-cause'], ['explicit', 'storm']],
  ['jdk25-g1-idle-periodic.log', ['periodic'], ['storm', 'explicit', 'little-room']],
  ['jdk17-g1-steady-gc.log', [], ['storm', 'little-room', 'explicit', 'stalls', 'humongous']],
  ['node20-leak-tracegc.log', ['storm'], ['explicit']],
];

(existsSync(CORPUS) ? describe : describe.skip)(
  existsSync(CORPUS) ? 'real logs' : 'the corpus is not on this machine: findings of its logs are not checked',
  () => {
    test.each(known)('%s has %j and not %j', (file, has, hasNot) => {
      const codes = problems(lastRun(readBytes(fileBytes(join(CORPUS, file))))).map((each) => each.code);
      expect(codes).toEqual(expect.arrayContaining([...has]));
      expect(codes.filter((code) => hasNot.includes(code))).toEqual([]);
    });
  },
);
