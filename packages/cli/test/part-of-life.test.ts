import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Recording } from '../../core/src/model/recording.ts';
import { compile, describeJvm, java, program } from '../../recorder-jvm/test/jvm.ts';
import { readRecording, ROOT, runHeron, scratch, serveHeron, startHeron, until } from '../../../test/run-heron.ts';

interface Survival {
  readonly groups: readonly {
    readonly name: string | null;
    readonly curve: readonly { readonly age: number; readonly low: number; readonly high: number }[];
  }[];
}

/**
 * The truth of both programs: nobody of the use case dies before a second and a half, and with births off half a second
 * of births then is no death of theirs; what was let go of is not told to live.
 */
async function expectCurves(file: string): Promise<void> {
  const { stdout } = await runHeron(['ask', file, '--measure', 'survival', '--charge', 'function', '--json']);
  const { groups } = JSON.parse(stdout) as Survival;
  expect(groups.filter(({ name }) => name?.includes('unwatched'))).toEqual([]);
  const { curve } = groups.find(({ name }) => name?.includes('useCase'))!;
  const until = (age: number): (typeof curve)[number] => curve.filter((point) => point.age <= age).at(-1)!;
  expect(until(1).high).toBe(1);
  expect(curve.at(-1)!.low).toBeLessThan(0.75);
}

interface Followed {
  readonly name: string;
  readonly bornMs: number;
  readonly endMs: number;
  readonly isLost: boolean;
}

/** The objects of the program's own two functions. */
function followedOf(recording: Recording): Followed[] {
  const { tables, strings } = recording;
  const { col, length } = tables.objects;
  const nameOf = (origin: number): string => {
    const frame = tables.paths.col.frameId[tables.origins.col.pathId[origin]!]!;
    return strings.text(tables.frames.col.functionId[frame]!);
  };
  return Array.from({ length }, (_, row) => ({
    name: nameOf(col.originId[row]!),
    bornMs: col.bornMs[row]!,
    endMs: col.endMs[row]!,
    isLost: col.lost[row] === 1,
  }));
}

/** Begun with births off, what is first told is born after the program switches them on. */
function expectLateBirths(recording: Recording): void {
  const { phases } = recording.tables;
  const onMs = phases.col.fromMs[2]!;
  const useCase = followedOf(recording).filter(({ name }) => name.includes('useCase'));
  expect(onMs).toBeGreaterThan(2500);
  expect(useCase.length).toBeGreaterThan(50);
  expect(useCase.filter(({ bornMs }) => bornMs < onMs - 5)).toEqual([]);
}

/** What is held of either runtime: the same program, told in the same way. */
function expectOneUseCase(recording: Recording): void {
  const followed = followedOf(recording);
  const ofUseCase = followed.filter(({ name }) => name.includes('useCase'));
  const marked = recording.tables.marks;
  expect(marked.length).toBe(1);
  expect(recording.strings.text(marked.col.labelId[0]!)).toBe('start over');
  const overMs = marked.col.tMs[0]!;
  const { phases } = recording.tables;
  const offMs = phases.col.fromMs[1]!;
  const onMs = phases.col.fromMs[2]!;
  // Nothing that was born between off and on is told, and the runtime's own classes neither.
  expect(followed.filter(({ bornMs }) => bornMs > offMs + 5 && bornMs < onMs - 5)).toEqual([]);
  expect(followed.filter(({ name }) => name.includes('unwatched'))).toEqual([]);
  // The half that was let go meanwhile is told dead by a collection after that.
  const early = ofUseCase.filter(({ bornMs }) => bornMs < offMs);
  expect(early.length).toBeGreaterThan(50);
  const gone = early.filter(({ endMs, isLost }) => endMs < overMs - 1 && !isLost);
  expect(gone.length / early.length).toBeGreaterThan(0.3);
  expect(gone.length / early.length).toBeLessThan(0.7);
  for (const { endMs } of gone) expect(endMs).toBeGreaterThan(offMs);
  // Starting over: what lived is lost from sight, not dead, and what came after is followed to the end.
  const before = ofUseCase.filter(({ bornMs }) => bornMs < overMs);
  for (const { isLost, endMs } of before) if (isLost) expect(Math.abs(endMs - overMs)).toBeLessThan(5);
  expect(before.filter(({ isLost }) => isLost).length).toBeGreaterThan(50);
  const after = ofUseCase.filter(({ bornMs }) => bornMs > overMs + 5);
  expect(after.length).toBeGreaterThan(50);
  expect(after.filter(({ isLost }) => isLost)).toEqual([]);
  expect(recording.issues.count).toBe(0);
}

test('a Node program says which part of its life is told, and starts over', async () => {
  const file = join(scratch(), 'part.ndjson');
  const script = join(ROOT, 'packages/cli/test/programs/one-use-case.js');
  const options = ['--out', file, '--exact', '--interval', '4096', '--floor-every', '500'];
  await runHeron(['record', ...options, '--', process.execPath, '--expose-gc', script]);
  expectOneUseCase(readRecording(file));
  await expectCurves(file);
});

test('a Node program tells no births until it is told to, and says so itself', async () => {
  const file = join(scratch(), 'quiet.ndjson');
  const script = join(ROOT, 'packages/cli/test/programs/one-use-case.js');
  const options = ['--births-off', '--out', file, '--exact', '--interval', '4096'];
  await runHeron(['record', ...options, '--', process.execPath, '--expose-gc', script]);
  expectLateBirths(readRecording(file));
});

describeJvm('a JVM', () => {
  test('says which part of its life is told, and starts over', async () => {
    const file = join(scratch(), 'part.ndjson');
    const options = ['--out', file, '--interval', '4096', '--cost', '0', '--collect', '0.5'];
    const command = [java(), '-Xmx64m', '-cp', compile(program('OneUseCase')), 'OneUseCase'];
    const { stderr } = await runHeron(['record', ...options, '--', ...command]);
    expect(stderr).toBe('');
    expectOneUseCase(readRecording(file));
    await expectCurves(file);
  });

  test('tells no births until it is told to, and the program does', async () => {
    const file = join(scratch(), 'quiet.ndjson');
    const command = [java(), '-Xmx64m', '-cp', compile(program('OneUseCase')), 'OneUseCase'];
    await runHeron(['record', '--births-off', '--out', file, '--interval', '4096', '--cost', '0', '--', ...command]);
    expectLateBirths(readRecording(file));
  });
});

test('heron tell switches births, starts over and marks, and says what it expects', async () => {
  const data = scratch();
  const server = await serveHeron({ data });
  const more = ['--server', `${server.address}/?token=${server.token}`];
  const none = await runHeron(['tell', 'collect', ...more]);
  expect([none.code, none.stderr]).toEqual([1, expect.stringContaining('no program is under recording')]);
  const wrong = await runHeron(['tell', 'births', 'maybe', ...more]);
  expect(wrong.stderr).toContain('expected births on or births off, found "maybe"');
  const code = 'const kept = []; setInterval(() => kept.push(new Array(1000).fill(kept.length)), 5)';
  const recorded = startHeron(['record', '--id', 'told', ...more, '--', process.execPath, '-e', code]);
  const linesOf = (): Promise<string> => readFile(join(data, 'streams', 'told.ndjson'), 'utf8');
  try {
    await until('lines of it', async () => (await linesOf()).includes('"kind":"objects"'));
    const wishes = [['births', 'off'], ['births', 'on'], ['start-over'], ['mark', 'here'], ['collect']];
    for (const wish of wishes)
      expect(await runHeron(['tell', ...wish, ...more])).toMatchObject({ code: 0, stderr: '' });
    const text = await until('all that was told', async () => {
      const lines = await linesOf();
      return lines.includes('"label":"here"') && lines.includes('"own":true') ? lines : null;
    });
    const kinds = [...text.matchAll(/"k":"phase"[^}]*"kind":"(\w+)"/g)].map(([, kind]) => kind);
    expect(kinds).toEqual(['objects', 'deaths', 'objects', 'blind', 'objects']);
    expect(text).toContain('"label":"start over","by":"page"');
  } finally {
    recorded.child.kill('SIGTERM');
    await recorded.end;
    await server.stop();
  }
});
