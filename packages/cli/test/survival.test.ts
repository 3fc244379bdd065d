import { join } from 'node:path';
import { COLLECTORS, compile, describeJvm, java, program } from '../../recorder-jvm/test/jvm.ts';
import { ROOT, runHeron, scratch } from '../../../test/run-heron.ts';

interface Group {
  readonly key: string | null;
  readonly name: string | null;
  readonly samples: number;
  readonly bytes: number;
  readonly bytesSe: number;
  readonly median: { readonly low: number | null; readonly high: number | null };
  readonly curve: readonly {
    readonly age: number;
    readonly low: number;
    readonly estimate: number;
    readonly high: number;
    readonly atRisk: number;
  }[];
  readonly missing: string | null;
}
interface Survival {
  readonly schema: string;
  readonly age: string;
  readonly by: string;
  readonly groups: readonly Group[];
  readonly missing: string | null;
}

async function survivalOf(file: string, ...more: string[]): Promise<Survival> {
  const { code, stdout, stderr } = await runHeron(['ask', file, '--measure', 'survival', '--json', ...more]);
  expect([code, stderr]).toEqual([0, '']);
  return JSON.parse(stdout) as Survival;
}

function groupOf({ groups }: Survival, name: string): Group {
  const found = groups.find((group) => group.name?.includes(name));
  expect(groups.map((group) => group.name)).toContainEqual(expect.stringContaining(name));
  return found!;
}

// Survival never rises, and the band is around it.
function expectCurve({ curve }: Group): void {
  expect(curve.length).toBeGreaterThan(3);
  curve.forEach(({ age, low, estimate, high }, at) => {
    expect(low).toBeLessThanOrEqual(estimate + 1e-9);
    expect(high).toBeGreaterThanOrEqual(estimate - 1e-9);
    if (at === 0) return;
    expect(age).toBeGreaterThan(curve[at - 1]!.age);
    expect(estimate).toBeLessThanOrEqual(curve[at - 1]!.estimate + 1e-9);
  });
}

test('objects of a Node program that live two seconds, and a tenth, are told so', async () => {
  const file = join(scratch(), 'known.ndjson');
  const script = join(ROOT, 'packages/cli/test/programs/known-lives.js');
  await runHeron(['record', '--out', file, '--exact', '--interval', '2048', '--', process.execPath, script]);
  const survival = await survivalOf(file);
  expect(survival).toMatchObject({ schema: 'brisk-heron/survival@1', age: 'seconds', by: 'bytes', missing: null });
  expect(survival.groups[0]!.key).toBeNull();
  const long = groupOf(survival, 'lastTwoSeconds');
  expectCurve(long);
  // A machine that stands still at times lets them live longer, never shorter.
  expect(long.median.low!).toBeLessThanOrEqual(3);
  expect(long.median.high ?? Infinity).toBeGreaterThanOrEqual(2);
  const short = groupOf(survival, 'lastATenth');
  expect(short.median.low!).toBeLessThanOrEqual(0.5);
  expect(short.median.high!).toBeGreaterThanOrEqual(0.1);
  expect(short.median.high!).toBeLessThan(long.median.high!);
  const byCollections = await survivalOf(file, '--age', 'collections', '--by', 'objects', '--charge', 'function');
  for (const { age } of byCollections.groups[0]!.curve) expect(Number.isInteger(age)).toBe(true);
});

describeJvm('a JVM', () => {
  test.each(COLLECTORS)('objects that live two seconds are told so, under %s', async (collector) => {
    const file = join(scratch(), 'known.ndjson');
    const options = ['--interval', '8192', '--cost', '0', '--collect', '1'];
    const command = [
      java(),
      `-XX:+Use${collector}GC`,
      '-Xmx96m',
      '-cp',
      compile(program('KnownLives')),
      'KnownLives',
      '7',
    ];
    await runHeron(['record', '--out', file, ...options, '--', ...command]);
    const survival = await survivalOf(file);
    const long = groupOf(survival, 'lastTwoSeconds');
    expectCurve(long);
    expect(long.median.low!).toBeLessThanOrEqual(3);
    // Where few lists were made, half of them were not seen to die: then no upper end is told.
    expect(long.median.high ?? Infinity).toBeGreaterThanOrEqual(2);
    const short = groupOf(survival, 'churn');
    expect(short.median.high!).toBeLessThan(2);
  });
});

test('of a log nothing is told, and why', async () => {
  const end = await runHeron(['ask', join(ROOT, 'examples/logs/weirkeeper-g1.log'), '--measure', 'survival', '--json']);
  const told = JSON.parse(end.stdout) as Survival;
  expect(told.missing).toMatch(/no object of it was seen/);
  expect(told.groups).toHaveLength(1);
  expect(end.stderr).toMatch(/a GC log tells no allocation sites/);
});

test('analyze tells survival of all and of the sites that allocate most', async () => {
  const sample = join(ROOT, 'examples/recordings/tidewatch-with-its-leak-and-churn.heron');
  const { stdout } = await runHeron(['analyze', sample, '--json']);
  const { survival } = JSON.parse(stdout) as {
    survival: { medianMs: { high: number }; past: { ms: number; high: number }[]; sites: { site: string }[] };
  };
  expect(survival.medianMs.high).toBeLessThan(1000);
  expect(survival.past.map(({ ms }) => ms)).toEqual([1000, 10_000, 60_000]);
  expect(survival.past[0]!.high).toBeLessThan(0.2);
  expect(survival.sites.map(({ site }) => site).join()).toContain('parseReading');
});
