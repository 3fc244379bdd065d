import { spawn, spawnSync } from 'node:child_process';
import { appendFileSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { CollectionFlag, PhaseKind } from '../../core/src/model/tables.ts';
import { attachAgent } from '../../cli/src/recording/jvm-attach.ts';
import { agentOptions, jvmOptions } from '../../cli/src/recording/jvm-launch.ts';
import { readRecording, ROOT, runHeron, scratch, until } from '../../../test/run-heron.ts';
import {
  balance,
  COLLECTORS,
  compile,
  describeJvm,
  java,
  make,
  misalignmentsMs,
  program,
  sanitizerLibrary,
  weirkeeper,
} from './jvm.ts';

// The JVM uses signals of its own, and keeps memory to its end.
function sanitized(collector: string): NodeJS.ProcessEnv {
  return {
    LD_PRELOAD: collector === 'Z' ? '' : sanitizerLibrary('libasan.so'),
    ASAN_OPTIONS: 'handle_segv=0:allow_user_segv_handler=1:detect_leaks=0:handle_sigfpe=0:handle_sigill=0',
  };
}

describeJvm('the JVM recorder', () => {
  let churning = '';
  let weirs = '';
  let library = '';

  beforeAll(() => {
    make('all');
    library = join(ROOT, 'packages', 'recorder-jvm', 'build', 'libbriskheron.so');
    churning = compile(program('Churning'));
    weirs = compile(weirkeeper);
  });

  test('holds its own checks, under sanitizers', () => {
    expect(make('check')).toMatch(/\d+ held, 0 failed/);
  });

  test.each(COLLECTORS)("with %s, the agent's collections fall on logged pauses within 2 ms", async (collector) => {
    const out = join(scratch(), 'aligned.ndjson');
    const end = await runHeron([
      'record',
      '--out',
      out,
      '--interval',
      '65536',
      '--',
      java(),
      '-Xmx64m',
      `-XX:+Use${collector}GC`,
      '-cp',
      weirs,
      'Weirkeeper',
      '4',
    ]);
    expect(end).toMatchObject({ code: 0, stderr: '' });
    const recording = readRecording(out);
    expect(recording.issues.byCode).not.toHaveProperty('not-a-stream-line');
    expect(recording.ended).toBe(true);
    const offMs = misalignmentsMs(recording);
    expect(offMs.length).toBeGreaterThan(2);
    // On a busy machine the collector's thread may be put off between its line and the callback: one in ten may be
    // later.
    expect(offMs[Math.max(0, Math.floor(offMs.length * 0.9) - 1)]!).toBeLessThan(2);
    expect(offMs[offMs.length - 1]!).toBeLessThan(200);
  });

  test('what a program allocates first is told as what it allocates later', async () => {
    const classes = compile(program('FirstWork'));
    // HotSpot draws the first distance by the address of the thread: one run in four hid most of it.
    for (let run = 0; run < 4; run++) {
      const out = join(scratch(), 'first.ndjson');
      const options = ['--out', out, '--interval', '4096', '--cost', '0'];
      await runHeron(['record', ...options, '--', java(), '-Xmx64m', '-cp', classes, 'FirstWork']);
      const { tables, strings } = readRecording(out);
      const { col, length } = tables.objects;
      let arrays = 0;
      let variance = 0;
      for (let row = 0; row < length; row++) {
        const frame = tables.paths.col.frameId[tables.origins.col.pathId[col.originId[row]!]!]!;
        if (!strings.text(tables.frames.col.functionId[frame]!).includes('first')) continue;
        const count = 1 / col.probability[row]!;
        arrays += count;
        variance += (1 - col.probability[row]!) * count ** 2;
      }
      expect(Math.abs(arrays - 1000) / Math.sqrt(variance)).toBeLessThan(5);
    }
  });

  test.each(['Serial', 'Parallel', 'G1'])(
    'with %s, births less deaths are what lives at the end',
    async (collector) => {
      const out = join(scratch(), 'balance.ndjson');
      await runHeron([
        'record',
        '--out',
        out,
        '--interval',
        '16384',
        '--cost',
        '0',
        '--census',
        '--',
        java(),
        '-Xmx64m',
        `-XX:+Use${collector}GC`,
        '-cp',
        churning,
        'Churning',
        '2500',
      ]);
      const recording = readRecording(out);
      const { born, rest, mirrors } = balance(recording);
      expect(born).toBeGreaterThan(1000);
      expect(rest).toBeGreaterThanOrEqual(recording.heaps[0]!.liveAtEnd);
      expect(rest - recording.heaps[0]!.liveAtEnd).toBeLessThanOrEqual(mirrors);
    },
  );

  test.each(COLLECTORS)(
    'under sanitizers with %s, threads and classes that come and go leave no trace of an error',
    (collector) => {
      // ZGC reserves the addresses that the address sanitizer needs for itself.
      const sanitizers = collector === 'Z' ? 'undefined' : 'address,undefined';
      const build = `build/${sanitizers.replace(',', '-')}`;
      make('sanitized', `SANITIZERS=${sanitizers}`, `OUT=${build}`);
      const out = join(scratch(), 'sanitized.ndjson');
      const options = jvmOptions(join(ROOT, 'packages', 'recorder-jvm', build, 'libbriskheron-sanitized.so'), {
        out,
        control: '',
        log: `${out}.gc`,
        intervalBytes: 4096,
        costRatio: 0,
      });
      const run = spawnSync(
        java(),
        ['-Xmx64m', `-XX:+Use${collector}GC`, ...options, '-cp', churning, 'Churning', '2500'],
        { encoding: 'utf8', timeout: 60_000, killSignal: 'SIGKILL', env: { ...process.env, ...sanitized(collector) } },
      );
      expect([run.status, run.stdout, run.stderr]).toEqual([0, 'ready\ndone\n', '']);
      const recording = readRecording(out);
      expect(recording.ended).toBe(true);
      expect(recording.issues.byCode).not.toHaveProperty('unknown-reference');
      expect(recording.tables.objects.length).toBeGreaterThan(1000);
    },
  );

  test('under sanitizers, comes to a running JVM and goes, time after time', async () => {
    make('sanitized', 'SANITIZERS=address,undefined', 'OUT=build/address-undefined');
    const child = spawn(java(), ['-XX:+UseG1GC', '-Xmx64m', '-cp', churning, 'Churning', '60000'], {
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, ...sanitized('G1') },
    });
    let complaints = '';
    child.stderr.on('data', (data: Buffer) => {
      complaints += data.toString();
    });
    await new Promise((resolve) => child.stdout.once('data', resolve));
    const folder = scratch();
    for (const round of [1, 2, 3]) {
      const [out, control] = [join(folder, `${round}.ndjson`), join(folder, `${round}.control`)];
      writeFileSync(control, '');
      attachAgent(
        child.pid!,
        join(ROOT, 'packages', 'recorder-jvm', 'build/address-undefined', 'libbriskheron-sanitized.so'),
        { out, control, log: `${out}.gc`, intervalBytes: 4096, costRatio: 0 },
      );
      await until('births', async () => (await readFile(out, 'utf8')).includes('"k":"born"'));
      appendFileSync(control, '{"do":"stop"}\n');
      await until('goodbye', async () => (await readFile(out, 'utf8')).includes('"k":"bye"'));
      expect(readRecording(out).issues.byCode).toEqual({});
    }
    const ended = new Promise((resolve) => child.once('close', resolve));
    child.kill('SIGTERM');
    await ended;
    expect(complaints.replace(/^WARNING: .*\n/gm, '')).toBe('');
  });

  test('refuses an attach that cannot be, says why, and the program goes on to its own end', async () => {
    const child = spawn(java(), ['-Xmx64m', '-cp', churning, 'Churning', '20000'], {
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    let complaints = '';
    child.stderr.on('data', (data: Buffer) => {
      complaints += data.toString();
    });
    const ended = new Promise((resolve) => child.once('close', (code) => resolve(code)));
    const folder = scratch();
    await new Promise((resolve) => child.stdout.once('data', resolve));
    const settings = { out: join(folder, 'run.ndjson'), control: '', log: join(folder, 'run.gc') };
    expect(() => attachAgent(child.pid!, library, { ...settings, out: '/nowhere/at/all' })).toThrow(
      /could not be loaded into process \d+: that JVM does not give/,
    );
    attachAgent(child.pid!, library, settings);
    expect(() => attachAgent(child.pid!, library, settings)).toThrow(/it is being recorded already/);
    expect(await ended).toBe(0);
    expect(complaints).toContain('cannot write to /nowhere/at/all');
    expect(readRecording(settings.out).ended).toBe(true);
  });

  test('does what it is asked: marks, births off and on, an interval, a collection', async () => {
    const folder = scratch();
    const [out, control] = [join(folder, 'asked.ndjson'), join(folder, 'control')];
    writeFileSync(control, '');
    const options = jvmOptions(library, { out, control, log: `${out}.gc`, intervalBytes: 65536 });
    const child = spawn(java(), [...options, '-XX:+UseSerialGC', '-Xmx64m', '-cp', weirs, 'Weirkeeper', '30'], {
      stdio: 'ignore',
    });
    const ended = new Promise((resolve) => child.once('close', resolve));
    const says = (part: string): Promise<unknown> =>
      until(part, async () => (await readFile(out, 'utf8')).includes(part));
    await says('"k":"born"');
    appendFileSync(
      control,
      `{"do":"mark","epochMs":${Date.now() - 2000},"label":"high \\"tide\\""}\n{"do":"births","on":false}\n{"do":"collect"}\nnonsense\n`,
    );
    await says('"kind":"deaths"');
    await says('ForceGarbageCollection');
    const quiet = readRecording(out);
    appendFileSync(control, '{"do":"interval","bytes":32768}\n{"do":"births","on":true}\n');
    await says('"k":"interval"');
    await until('births again', async () => readRecording(out).tables.objects.length > quiet.tables.objects.length);
    appendFileSync(control, '{"do":"stop"}\n');
    await says('"k":"bye"');
    expect(child.exitCode).toBeNull();
    child.kill('SIGKILL');
    await ended;
    const recording = readRecording(out);
    expect(recording.strings.text(recording.tables.marks.col.labelId[0]!)).toBe('high "tide"');
    // Told two seconds late, it stands where it was set: before the births that it followed were off.
    expect(recording.tables.phases.col.fromMs[1]! - recording.tables.marks.col.tMs[0]!).toBeGreaterThanOrEqual(
      Math.min(2000, recording.tables.phases.col.fromMs[1]!),
    );
    expect(Array.from(recording.tables.phases.col.kind.subarray(0, 3))).toEqual([
      PhaseKind.objects,
      PhaseKind.deaths,
      PhaseKind.objects,
    ]);
    expect(Array.from(recording.tables.intervals.col.bytes.subarray(0, recording.tables.intervals.length))).toContain(
      32768,
    );
    const {
      length,
      col: { lost },
    } = recording.tables.objects;
    expect(lost.subarray(0, length)).not.toContain(1);
  });

  test('takes marks from the program through the class it ships, which does nothing without it', () => {
    const folder = scratch();
    writeFileSync(
      join(folder, 'Marked.java'),
      'public class Marked { public static void main(String[] a) throws Exception { briskheron.Marks.mark("Flut ä 🌊"); Thread.sleep(400); System.out.print("fine"); } }',
    );
    const source = join(ROOT, 'packages', 'recorder-jvm', 'java', 'briskheron', 'Marks.java');
    spawnSync(java().replace(/java$/, 'javac'), ['-d', folder, source, join(folder, 'Marked.java')]);
    const bare = spawnSync(java(), ['-cp', folder, 'Marked'], { encoding: 'utf8' });
    expect([bare.status, bare.stdout, bare.stderr]).toEqual([0, 'fine', '']);
    const out = join(folder, 'marked.ndjson');
    spawnSync(
      java(),
      [`-agentpath:${library}=${agentOptions({ out, control: '', log: '' })}`, '-cp', folder, 'Marked'],
      { encoding: 'utf8' },
    );
    const { tables, strings } = readRecording(out);
    expect(strings.text(tables.marks.col.labelId[0]!)).toBe('Flut ä 🌊');
    expect(tables.collections.length).toBe(0);
    const forced = join(folder, 'forced.ndjson');
    spawnSync(
      java(),
      [
        `-agentpath:${library}=${agentOptions({ out: forced, control: '', log: '', collectAtMarks: true })}`,
        '-cp',
        folder,
        'Marked',
      ],
      { encoding: 'utf8' },
    );
    const { marks, collections } = readRecording(forced).tables;
    expect(collections.length).toBe(1);
    expect(collections.col.startMs[0]! - marks.col.tMs[0]!).toBeGreaterThanOrEqual(0);
    expect(collections.col.flags[0]! & CollectionFlag.own).toBe(CollectionFlag.own);
  });

  test('without a log, tells collections by the beans: kind, and sizes after', () => {
    const out = join(scratch(), 'bare.ndjson');
    const run = spawnSync(
      java(),
      [
        `-agentpath:${library}=${agentOptions({ out, control: '', log: '', collectMs: 500 })}`,
        '-XX:+UseG1GC',
        '-Xmx32m',
        '-cp',
        weirs,
        'Weirkeeper',
        '3',
      ],
      { encoding: 'utf8' },
    );
    expect(run.stderr).toBe('');
    const { tables, strings } = readRecording(out);
    const { col, length } = tables.collections;
    const labels = Array.from(col.labelId.subarray(0, length), (id) => strings.text(id));
    expect(labels).toEqual(expect.arrayContaining(['G1 Young Generation', 'G1 Old Generation']));
    const sized = Array.from(col.usedAfterBytes.subarray(0, length)).filter(
      (bytes) => bytes > 500_000 && bytes < 32 * 1024 * 1024,
    );
    expect(sized.length).toBeGreaterThan(2);
    expect(tables.spaces.length).toBeGreaterThan(6);
  });

  test.each([
    ['', 'expected out=FILE'],
    ['out=/nowhere/at/all', 'cannot write'],
    ['out=/tmp/x,interval=soon', 'expected out=FILE and any of'],
  ])('given %j leaves the program alone and says why', (options, why) => {
    const run = spawnSync(java(), [`-agentpath:${library}=${options}`, '-cp', weirs, 'Weirkeeper', '0'], {
      encoding: 'utf8',
    });
    expect(run.status).toBe(0);
    expect(run.stderr).toContain('this JVM is not recorded');
    expect(run.stderr).toContain(why);
  });

  test('reads names as an engineer does', () => {
    const out = join(scratch(), 'names.ndjson');
    spawnSync(java(), [
      `-agentpath:${library}=${agentOptions({ out, control: '', log: '', intervalBytes: 512, costRatio: 0 })}`,
      '-Xmx64m',
      '-cp',
      weirs,
      'Weirkeeper',
      '5',
    ]);
    const { tables, strings } = readRecording(out);
    const texts = (ids: Uint32Array, length: number): string[] => [
      ...new Set(Array.from(ids.subarray(0, length), (id) => strings.text(id))),
    ];
    const types = texts(tables.origins.col.typeId, tables.origins.length);
    expect(types).toEqual(
      expect.arrayContaining(['byte[]', 'java.lang.String', 'Weirkeeper.Reading', 'Weirkeeper.Schedule']),
    );
    const functions = texts(tables.frames.col.functionId, tables.frames.length);
    expect(functions).toEqual(
      expect.arrayContaining(['Weirkeeper.main', 'Weirkeeper.Schedule.<init>', 'Weirkeeper.listen (lambda)']),
    );
    expect(functions.concat(types).filter((name) => /0x|\$\$|lambda\$/.test(name))).toEqual([]);
    expect(texts(tables.origins.col.threadId, tables.origins.length)).toContain('main');
  });
});
