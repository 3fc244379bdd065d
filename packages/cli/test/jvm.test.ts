import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { chmodSync, mkdirSync, readdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { analysisReport } from '../../core/src/measures/analysis-report.ts';
import { CollectionFlag } from '../../core/src/model/tables.ts';
import { compile, describeJvm, java, misalignmentsMs, weirkeeper } from '../../recorder-jvm/test/jvm.ts';
import {
  askHeron,
  freePort,
  readRecording,
  recordUntil,
  ROOT,
  runHeron,
  scratch,
  startHeron,
  until,
} from '../../../test/run-heron.ts';
import { ensureAgent, findJdk } from '../src/recording/jvm-agent.ts';
import { addLeftoverLogs } from '../src/recording/jvm-log-files.ts';
import { agentOptions, isJava, jvmEnvironment, recordedJavaCommand } from '../src/recording/jvm-launch.ts';
import { jvmSettingsOf } from '../src/recording/jvm-options.ts';

const SETTINGS = { out: '/tmp/a b,c.ndjson', control: '', log: '/tmp/a b,c.ndjson.%p.gc' };

test('options for the agent escape what would separate them', () => {
  expect(
    agentOptions({
      ...SETTINGS,
      own: ['org.saltmarsh.', 'Weir'],
      intervalBytes: 4096,
      costRatio: 0.05,
      collectMs: 3000,
      census: true,
    }),
  ).toBe(
    'out=/tmp/a%20b%2Cc.ndjson,log=/tmp/a%20b%2Cc.ndjson.%p.gc,own=org.saltmarsh.;Weir,interval=4096,cost=50000,collect=3000,census=1',
  );
});

test('a java command keeps its own options behind ours, and a script gets them through the environment', () => {
  const command = recordedJavaCommand(['java', '-Xmx1g', '-jar', 'app.jar'], '/lib.so', {
    out: '/o',
    control: '/c',
    log: '/l',
  });
  expect(command).toEqual([
    'java',
    '-agentpath:/lib.so=out=/o,control=/c,log=/l',
    '-Xlog:gc*:file=/l:uptime,timenanos,level,tags:filecount=0',
    '-Xlog:jvmti=off',
    '-Xmx1g',
    '-jar',
    'app.jar',
  ]);
  expect(
    jvmEnvironment({ JAVA_TOOL_OPTIONS: '-Da=b' }, '/lib.so', { out: '/o', control: '', log: '/l' })[
      'JAVA_TOOL_OPTIONS'
    ],
  ).toMatch(/^-Da=b -agentpath:\/lib\.so=out=\/o,log=\/l -Xlog:/);
  expect([isJava(['java']), isJava(['/opt/jdk/bin/java', '-jar']), isJava(['javac']), isJava(['node'])]).toEqual([
    true,
    true,
    false,
    false,
  ]);
});

test('what is said of packages and numbers is checked', () => {
  expect(jvmSettingsOf({ own: 'org.saltmarsh, org.weir.Gate,Weir' }).own).toEqual([
    'org.saltmarsh.',
    'org.weir.Gate',
    'Weir',
  ]);
  expect(() => jvmSettingsOf({ interval: 'often' })).toThrow(
    'expected --interval with a number from 1 to 1073741824, found "often"',
  );
  expect(() => jvmSettingsOf({ cost: '300' })).toThrow('from 0 to 100');
});

test('what a killed JVM left in its log is added to the recording', async () => {
  const spool = join(scratch(), 'killed.ndjson');
  const log =
    '[0.1s][1000000000ns][info][gc] GC(0) Pause Young (Normal) (G1 Evacuation Pause) 20M->10M(64M) 5.000ms\n[0.2s][1100000000ns][info][gc] GC(1) Pause Young (Normal) (G1 Evacuation Pause) 30M->12M(64M) 6.000ms\n[0.3s][12000';
  const first = log.indexOf('\n') + 1;
  writeFileSync(`${spool}.77.gc`, log);
  writeFileSync(
    spool,
    `${JSON.stringify({ k: 'hello', schema: 'brisk-heron/stream@1', h: '77', epochMs: 1, clockMs: 900, program: 'weir', runtime: 'OpenJDK', log: 'jvm-unified' })}\n${JSON.stringify({ k: 'log', h: '77', upto: first, text: log.slice(0, first) })}\n`,
  );
  expect(await addLeftoverLogs(spool)).toBe(log.lastIndexOf('\n') + 1 - first);
  const { pauses } = readRecording(spool).tables;
  expect(Array.from(pauses.col.startMs.subarray(0, pauses.length))).toEqual([95, 194]);
});

test('without a JDK or a compiler the message says what to install', () => {
  expect(findJdk('/nowhere/bin/java', { JAVA_HOME: '/nowhere' })).not.toBe('/nowhere');
  const root = scratch();
  mkdirSync(join(root, 'packages', 'recorder-jvm', 'src'), { recursive: true });
  writeFileSync(join(root, 'packages', 'recorder-jvm', 'Makefile'), '');
  writeFileSync(join(root, 'packages', 'recorder-jvm', 'src', 'agent.c'), '');
  expect(() => ensureAgent(root, null, { PATH: root })).toThrow(
    /found no "make": install one \(Debian: apt install gcc make libc6-dev\)/,
  );
});

describeJvm('heron with a JVM', () => {
  let weirs = '';
  const children: ChildProcess[] = [];
  beforeAll(() => {
    weirs = compile(weirkeeper);
  });
  afterAll(() => {
    for (const child of children) child.kill('SIGKILL');
  });

  const startWeirs = (seconds: number): ChildProcess => {
    const child = spawn(java(), ['-Xmx96m', '-cp', weirs, 'Weirkeeper', String(seconds)], {
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    children.push(child);
    return child;
  };

  test('that can get no more memory is told at once, and said first', async () => {
    const out = join(scratch(), 'full.ndjson');
    const args = [
      'record',
      '--out',
      out,
      '--',
      java(),
      '-Xmx24m',
      '-XX:+UseSerialGC',
      '-cp',
      weirs,
      'Weirkeeper',
      '400',
      '--faults',
      'schedule',
    ];
    await recordUntil(
      args,
      out,
      { sign: '"code":"out-of-memory"', times: 1, leastMs: 1000, withinMs: 200_000 },
      (child) => child.kill('SIGTERM'),
    );
    const report = analysisReport(readRecording(out));
    expect(report.verdict.exhaustion!.outOfMemoryMs).toBeGreaterThan(1000);
    expect(report.verdict.sentence).toMatch(/^Out of memory at \d+:\d\d; /);
    expect(['growing', 'unclear']).toContain(report.verdict.kind);
  });

  const disk = join(scratch(), 'disk');
  mkdirSync(disk);
  const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=256k', 'tmpfs', disk]).status === 0;
  if (!mounted) process.stderr.write('no small disk can be made here: its test is skipped\n');
  afterAll(() => {
    if (mounted) spawnSync('umount', ['-l', disk]);
  });

  (mounted ? test : test.skip)('whose disk is full ends as it would, and what is missing is told', async () => {
    const out = join(disk, 'out.ndjson');
    const end = await runHeron([
      'record',
      '--out',
      out,
      '--interval',
      '4096',
      '--cost',
      '0',
      '--',
      java(),
      '-Xmx64m',
      '-cp',
      weirs,
      'Weirkeeper',
      '5',
    ]);
    expect([end.code, end.stderr]).toEqual([
      0,
      expect.stringMatching(
        /the disk did not take its last \d+ bytes[\s\S]*the end of the recording is not complete \(ENOSPC/,
      ) as string,
    ]);
    expect(readRecording(out).tables.objects.length).toBeGreaterThan(50);
  });

  test('that a script starts is recorded as it is, and a signal that asks it for its threads comes through', async () => {
    const out = join(scratch(), 'script.ndjson');
    const { child, end } = startHeron([
      'record',
      '--out',
      out,
      '--',
      'sh',
      '-c',
      `exec ${java()} -Xmx64m -cp ${weirs} Weirkeeper 60`,
    ]);
    children.push(child);
    await until('the JVM', async () => readFileSync(out, 'utf8').includes('"k":"size"'));
    child.kill('SIGQUIT');
    await new Promise((resolve) => setTimeout(resolve, 1500));
    child.kill('SIGTERM');
    const { code, signal, stdout } = await end;
    expect([code, signal]).toEqual([143, null]);
    expect(stdout).toContain('Full thread dump');
    expect(readRecording(out)).toMatchObject({ ended: true, format: 'recording' });
  });

  test('records births, deaths and the log of one run as one recording', async () => {
    const out = join(scratch(), 'whole.ndjson');
    const args = [
      'record',
      '--out',
      out,
      '--interval',
      '32768',
      '--cost',
      '0',
      '--collect',
      '1',
      '--name',
      'weirs',
      '--',
      java(),
      '-Xms96m',
      '-Xmx96m',
      '-XX:+UseG1GC',
      '-cp',
      weirs,
      'Weirkeeper',
      '400',
      '--faults',
      'schedule',
    ];
    // It grows as fast as it may run: on a machine whose load changes the pace does, and is told once it has held for a
    // while.
    const end = await recordUntil(
      args,
      out,
      { sign: 'Pause Full (JvmtiEnv ForceGarbageCollection) ', times: 24, leastMs: 55_000, withinMs: 330_000 },
      (child) => child.kill('SIGTERM'),
    );
    expect([end.code, end.stderr]).toEqual([143, '']);
    const recording = readRecording(out);
    const report = analysisReport(recording);
    expect([recording.program, report.source.collector, report.source.issues.count]).toEqual(['weirs', 'G1', 0]);
    // With the sentence, which tells what was missing where it is another.
    expect(`${report.verdict.kind}: ${report.verdict.sentence} ${JSON.stringify(report.verdict.floor)}`).toMatch(
      /^growing: /,
    );
    expect(report.sites[0]!.site).toMatch(/^Weirkeeper\.Schedule\.<init> Weirkeeper\.java:\d+$/);
    expect(report.sites[0]!.type).toBe('double[]');
    // A dozen floor points tell its share roughly: within its error it is most of the growth.
    expect(report.sites[0]!.growthShareRatio).toBeGreaterThan(0.4);
    expect(report.sites[0]!.growthHigh! / report.verdict.slopeBytesPerSec!).toBeGreaterThan(0.7);
    const sampled = report.sites.reduce((sum, site) => sum + site.allocBytes, 0);
    expect(sampled / report.allocation!.totalBytes).toBeGreaterThan(0.9);
    expect(sampled / report.allocation!.totalBytes).toBeLessThan(1.1);
    const { collections } = recording.tables;
    const causes = new Set(
      Array.from({ length: collections.length }, (_, row) => recording.strings.text(collections.col.causeId[row]!)),
    );
    expect([...causes]).toEqual(expect.arrayContaining(['G1 Evacuation Pause', 'JvmtiEnv ForceGarbageCollection']));
    const own = Array.from(collections.col.flags.subarray(0, collections.length)).filter(
      (flags) => flags & CollectionFlag.own,
    ).length;
    expect(own).toBeGreaterThan(8);
    expect(report.collections.ownForced).toBe(own);
    expect(readdirSync(join(out, '..'))).toEqual(['whole.ndjson']);
    // The recorder waits long after a collection that took long: on a machine that stands still at times, nine of them
    // take minutes.
  }, 390_000);

  test('attaches to a running JVM, twice, and lets it run on', async () => {
    const child = startWeirs(60);
    await new Promise((resolve) => setTimeout(resolve, 1000));
    for (const name of ['first', 'second']) {
      const out = join(scratch(), `${name}.ndjson`);
      const end = await runHeron([
        'attach',
        String(child.pid),
        '--out',
        out,
        '--seconds',
        '2.5',
        '--interval',
        '65536',
        '--census',
      ]);
      expect(end.code).toBe(0);
      const recording = readRecording(out);
      expect(recording.ended).toBe(true);
      expect(recording.notes.map((note) => note.code)).toContain('attached');
      expect(recording.heaps[0]).toMatchObject({ startsEmpty: false });
      expect(recording.tables.objects.length).toBeGreaterThan(100);
      expect(recording.issues.byCode).toEqual({});
      const offMs = misalignmentsMs(recording);
      expect(offMs.length).toBeGreaterThan(2);
      expect(offMs[Math.floor(offMs.length / 2)]!).toBeLessThan(2);
    }
    expect(child.exitCode).toBeNull();
  });

  test('a process that is no JVM, or none at all, is refused with what was expected', async () => {
    const sleeper = spawn('sleep', ['60'], { stdio: 'ignore' });
    expect((await runHeron(['attach', String(sleeper.pid), '--out', join(scratch(), 'x')])).stderr).toContain(
      `process ${sleeper.pid} is not a JVM of this user`,
    );
    sleeper.kill('SIGKILL');
    expect((await runHeron(['attach', '999999999', '--out', join(scratch(), 'x')])).stderr).toContain(
      'expected a running process',
    );
    expect((await runHeron(['attach', 'weirs', '--out', join(scratch(), 'x')])).stderr).toContain(
      'expected the process id of a Node program or a JVM, found "weirs"',
    );
  });

  test('what was recorded before a kill is kept, the last lines of the log included', async () => {
    const out = join(scratch(), 'killed.ndjson');
    const { child, end } = startHeron([
      'record',
      '--out',
      out,
      '--',
      java(),
      '-Xmx64m',
      '-cp',
      weirs,
      'Weirkeeper',
      '60',
    ]);
    const pid = await until('the JVM', async () => /"h":"(\d+)"/.exec(readFileSync(out, 'utf8'))?.[1]);
    await until('collections', async () => readFileSync(out, 'utf8').includes('Pause Young'));
    process.kill(Number(pid), 'SIGKILL');
    expect((await end).signal).toBe('SIGKILL');
    expect(child.killed).toBe(false);
    const recording = readRecording(out);
    expect(recording.ended).toBe(false);
    expect(recording.tables.collections.length).toBeGreaterThan(0);
    expect(recording.issues.byCode).toEqual({});
  });

  test('a program that a script starts is recorded with --jvm', async () => {
    const folder = scratch();
    const script = join(folder, 'start.sh');
    symlinkSync(java(), join(folder, 'java'));
    writeFileSync(script, `#!/bin/sh\nexec "${java()}" -Xmx64m -cp "${weirs}" Weirkeeper 2\n`);
    chmodSync(script, 0o755);
    const out = join(folder, 'scripted.ndjson');
    const end = await runHeron(['record', '--jvm', '--interval', '16384', '--out', out, '--', script]);
    expect(end.code).toBe(0);
    expect(readRecording(out).tables.objects.length).toBeGreaterThan(50);
  });

  test('when the server dies and comes back, it gets everything', async () => {
    const port = await freePort();
    const data = scratch();
    const address = `http://127.0.0.1:${port}`;
    const environment = { BRISK_HERON_DATA: data, BRISK_HERON_SERVER: address };
    const serve = (): ReturnType<typeof startHeron> => {
      const served = startHeron(['serve', '--port', String(port)], environment);
      children.push(served.child);
      return served;
    };
    const healthy = (): Promise<unknown> => until('the server', async () => (await fetch(`${address}/api/health`)).ok);
    const first = serve();
    await healthy();
    const recorded = startHeron(
      ['record', '--id', 'weirs', '--', java(), '-Xmx64m', '-cp', weirs, 'Weirkeeper', '8'],
      environment,
    );
    await until('lines', async () =>
      ((await (await askHeron(address, data, '/api/streams')).json()) as { streams: { bytes: number }[] }).streams.some(
        (stream) => stream.bytes > 2000,
      ),
    );
    first.child.kill('SIGKILL');
    await first.end;
    await new Promise((resolve) => setTimeout(resolve, 1500));
    const second = serve();
    const end = await recorded.end;
    expect(end.code).toBe(0);
    await healthy();
    const stored = readdirSync(join(data, 'streams'), { recursive: true })
      .map(String)
      .filter((name) => name.endsWith('.ndjson'));
    const recording = readRecording(join(data, 'streams', stored[0]!));
    expect(recording.ended).toBe(true);
    expect(recording.issues.byCode).toEqual({});
    const offMs = misalignmentsMs(recording);
    expect(offMs[Math.floor(offMs.length / 2)]!).toBeLessThan(2);
    second.child.kill('SIGTERM');
    await second.end;
  });

  test('the library is built once, into the clone', () => {
    expect(ensureAgent(ROOT)).toBe(join(ROOT, 'packages', 'recorder-jvm', 'build', 'libbriskheron.so'));
  });
});
