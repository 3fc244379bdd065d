import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { compile, describeJvm, java, program } from '../../recorder-jvm/test/jvm.ts';
import { ROOT, runHeron, scratch } from '../../../test/run-heron.ts';

interface Holding {
  readonly schema: string;
  readonly objects: number;
  readonly ownBytes: number;
  readonly unreachable: { readonly objects: number; readonly ownBytes: number };
  readonly groups: readonly {
    readonly key: string;
    readonly objects: number;
    readonly ownBytes: number;
    readonly heldBytes: number;
    readonly heldIsExact: boolean;
    readonly ways: readonly {
      readonly steps: readonly string[];
      readonly objects: number;
      readonly shareRatio: number;
    }[];
    readonly sentence: string;
  }[];
}

/** Starts a program and waits until it says that it is ready; the caller ends it. */
async function ready(command: string, args: readonly string[]): Promise<{ child: ChildProcess; pid: number }> {
  const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'ignore'] });
  let said = '';
  const pid = await new Promise<number>((resolve, reject) => {
    child.stdout.on('data', (text) => {
      const found = /ready (\d+)/.exec((said += String(text)));
      if (found !== null) resolve(Number(found[1]));
    });
    child.once('exit', () => reject(new Error(`it ended: ${said}`)));
  });
  return { child, pid };
}

async function holdingOf(file: string, ...more: string[]): Promise<Holding> {
  const { code, stdout, stderr } = await runHeron(['ask', file, '--measure', 'holding', '--json', ...more]);
  expect([code, stderr]).toEqual([0, '']);
  return JSON.parse(stdout) as Holding;
}

const keyOf = ({ groups }: Holding, key: string): Holding['groups'][number] =>
  groups.find((group) => group.key === key)!;
const left = (): string[] => readdirSync(tmpdir()).filter((name) => name.startsWith('heron-inventory-'));

test('of a Node program the sentence names the holder that is known', async () => {
  const { child, pid } = await ready(process.execPath, [join(ROOT, 'packages/cli/test/programs/keeping.js')]);
  const file = join(scratch(), 'kept.heapsnapshot');
  const before = left();
  try {
    const taken = await runHeron(['inventory', String(pid), '--out', file, '--find', 'Handler']);
    expect(taken.code).toBe(0);
    expect(taken.stderr).toMatch(/the program stands still while it writes its .* MiB down, for about/);
    expect(taken.stdout).toMatch(
      /5,000 Handler objects \(.* holding .*\) stay because AlertService\.watch \(Map\), root: .*, keeps them; none is reachable otherwise\./,
    );
    const again = await runHeron(['inventory', String(pid), '--out', file]);
    expect([again.code, again.stderr]).toEqual([2, expect.stringContaining('nothing is written over it')]);
  } finally {
    child.kill('SIGKILL');
  }
  const holding = await holdingOf(file, '--set', 'most=400');
  expect(holding.schema).toBe('brisk-heron/holding@1');
  expect(keyOf(holding, 'Link')).toMatchObject({ objects: 50_000, heldIsExact: true });
  expect(keyOf(holding, 'Link').sentence).toContain('because variable chain (Link)');
  expect(keyOf(holding, 'Link').ways[0]!.steps.slice(-2)).toEqual(['variable chain', 'Link.next']);
  expect(keyOf(holding, 'Tide').sentence).toContain('because variable bus (EventEmitter)');
  // Its map's table is one step, wherever in it an entry stands.
  expect(keyOf(holding, 'Handler').ways).toHaveLength(1);
  expect(keyOf(holding, 'Forgotten')).toBeUndefined();
  expect(left()).toEqual(before);
});

describeJvm('a JVM', () => {
  test('is told by the holder that is known, with sizes that add up to what it uses', async () => {
    const { child, pid } = await ready(java(), ['-Xmx128m', '-cp', compile(program('Keeping')), 'Keeping']);
    const file = join(scratch(), 'kept.hprof');
    const before = left();
    try {
      const taken = await runHeron(['inventory', String(pid), '--find', 'Handler', '--most', '1']);
      expect(taken.stdout).toMatch(
        /5,000 Keeping\$Handler objects \(.*\) stay because Keeping\.watch \(java\.util\.HashMap\), root: class of the program, keeps them; none is reachable otherwise\./,
      );
      expect(left()).toEqual(before);
      expect((await runHeron(['inventory', String(pid), '--out', file, '--json'])).code).toBe(0);
    } finally {
      child.kill('SIGKILL');
    }
    const holding = await holdingOf(file, '--set', 'most=400');
    expect(keyOf(holding, 'Keeping$Handler')).toMatchObject({
      objects: 5000,
      ownBytes: 5000 * 24,
      heldBytes: 5000 * (24 + 216),
    });
    expect(keyOf(holding, 'Keeping$Link')).toMatchObject({ objects: 100_000, ownBytes: 2_400_000 });
    expect(keyOf(holding, 'Keeping$Link').sentence).toContain('because Keeping.chain (Keeping$Link)');
    expect(keyOf(holding, 'Keeping$Entry').sentence).toMatch(
      /because java\.lang\.Thread\.threadLocals \(java\.lang\.ThreadLocal\$ThreadLocalMap\), root: (?:thread|stack of thread “main”)/,
    );
    expect(keyOf(holding, 'Keeping$Forgotten')).toBeUndefined();
    // 8 names by 10 hours, of which 40 come together: all but one of each are like another. Records are equal by content.
    const told = await runHeron(['ask', file, '--measure', 'reasons', '--json']);
    const { answer } = JSON.parse(told.stdout) as { answer: { reasons: { code: string; sentence: string }[] } };
    const alike = answer.reasons.filter(({ code }) => code === 'alike-keys');
    expect(alike).toMatchObject([{ key: 'Keeping$Gauge', objects: 4000 - 40 }]);
    expect(alike[0]!.sentence).toContain(
      '3,960 of the 4,000 Keeping$Gauge objects that are keys of one java.util.HashMap',
    );
    const found = await holdingOf(file, '--charge', 'package', '--find', 'field=watch');
    expect(found.groups.map(({ key }) => key)).toEqual(expect.arrayContaining(['(no package)', 'java.util']));
  });

  test('sizes are those that the JVM itself tells', async () => {
    const out = join(scratch(), 'sizes.hprof');
    const { child } = await ready(java(), [
      '-Xmx128m',
      '-XX:+UseSerialGC',
      '-XX:-UseTLAB',
      '-cp',
      compile(program('Sizing')),
      'Sizing',
      out,
    ]);
    child.kill('SIGKILL');
    expect(existsSync(out)).toBe(true);
    const { ownBytes, unreachable } = await holdingOf(out);
    // What the program uses is in the name of its file. Serial without buffers counts objects, G1 regions.
    const used = Number(/\d+/.exec(readdirSync(join(out, '..')).find((name) => name.startsWith('used-'))!)![0]);
    expect(Math.abs((ownBytes + unreachable.ownBytes) / used - 1)).toBeLessThan(0.02);
  });
});

test('what is no process and no dump is refused, and said why', async () => {
  const refused = async (...args: string[]): Promise<string> => {
    const { code, stderr } = await runHeron(['inventory', ...args]);
    expect(code).not.toBe(0);
    return stderr;
  };
  expect(await refused('4194303')).toMatch(/expected a running process, found none with id 4194303/);
  expect(await refused(String(process.ppid > 1 ? 1 : process.pid))).toMatch(/neither a JVM nor a Node program/);
  expect(await refused(join(scratch(), 'none.hprof'))).toMatch(/none\.hprof/);
  const log = join(ROOT, 'examples/logs/weirkeeper-g1.log');
  expect(await refused(log)).toMatch(/no inventory was taken: drop a heap dump/);
  const { stdout } = await runHeron(['ask', log, '--measure', 'holding', '--json']);
  expect(JSON.parse(stdout)).toMatchObject({ groups: [], missing: expect.stringContaining('no inventory was taken') });
});
