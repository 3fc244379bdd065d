import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { findJdk } from '../../cli/src/recording/jvm-agent.ts';
import type { Recording } from '../../core/src/model/recording.ts';
import { ROOT, scratch } from '../../../test/run-heron.ts';

/** A JDK with headers and a compiler to build the agent with; null where there is none. */
export const JDK = hasCompiler() ? findJdk(null) : null;

/** Tests that need a JDK; without one they are skipped, and a line says so. */
export const describeJvm = JDK === null ? describe.skip : describe;
if (JDK === null)
  process.stderr.write(
    'skipped: the tests of the JVM recorder need a JDK with headers (Debian: default-jdk-headless), make and cc\n',
  );

export const java = (): string => join(JDK!, 'bin', 'java');

/** The collectors of this JVM; one it was built without is named in a line. */
export const COLLECTORS = ['Serial', 'Parallel', 'G1', 'Z', 'Shenandoah'].filter((collector) => {
  if (JDK === null || hasCollector(collector)) return true;
  process.stderr.write(`skipped: this JVM has no ${collector} collector\n`);
  return false;
});

function hasCompiler(): boolean {
  return ['make', 'cc'].every((tool) => spawnSync(tool, ['--version'], { stdio: 'ignore' }).status === 0);
}

/** Compiles a test program, or weirkeeper, with what it takes from us; answers the folder of its classes. */
export function compile(source: string): string {
  const folder = scratch();
  const ours = join(ROOT, 'packages', 'recorder-jvm', 'java');
  execFileSync(join(JDK!, 'bin', 'javac'), ['-sourcepath', ours, '-d', folder, source]);
  return folder;
}

export const program = (name: string): string => join(__dirname, 'programs', `${name}.java`);
export const weirkeeper = join(ROOT, 'examples', 'weirkeeper', 'Weirkeeper.java');

function hasCollector(collector: string): boolean {
  return spawnSync(java(), [`-XX:+Use${collector}GC`, '-version'], { stdio: 'ignore' }).status === 0;
}

/** Builds with the agent's Makefile. @throws what the compiler said. */
export function make(target: string, ...more: string[]): string {
  const folder = join(ROOT, 'packages', 'recorder-jvm');
  const built = spawnSync('make', ['-C', folder, target, `JDK=${JDK}`, ...more], { encoding: 'utf8' });
  if (built.status !== 0) throw new Error(built.stdout + built.stderr);
  return built.stdout;
}

/** Where gcc keeps a sanitizer's library. @throws when it has none. */
export function sanitizerLibrary(name: string): string {
  const path = execFileSync('cc', [`-print-file-name=${name}`], { encoding: 'utf8' }).trim();
  if (!existsSync(path))
    throw new Error(`expected the compiler to have ${name}: install gcc (Debian: apt install gcc libc6-dev)`);
  return path;
}

/** Objects born, noticed dead, and neither; of the last also how many are class mirrors, which a JVM may not count. */
export function balance(recording: Recording): { born: number; died: number; rest: number; mirrors: number } {
  const { objects, origins } = recording.tables;
  let died = 0;
  let mirrors = 0;
  for (let row = 0; row < objects.length; row++) {
    if (!Number.isNaN(objects.col.endMs[row]!)) died++;
    else if (recording.strings.text(origins.col.typeId[objects.col.originId[row]!]!) === 'java.lang.Class') mirrors++;
  }
  return { born: objects.length, died, rest: objects.length - died, mirrors };
}

/**
 * How far each collection of the agent's callbacks begins before, or ends after, the logged pause it falls on;
 * ascending.
 */
export function misalignmentsMs(recording: Recording): Float64Array {
  const { witnesses, pauses } = recording.tables;
  const startOf = pauses.col.startMs.slice(0, pauses.length);
  const endOf = startOf.map((startMs, row) => startMs + pauses.col.durationMs[row]!);
  const nearest = (times: Float64Array, tMs: number): number =>
    times.reduce((least, one) => Math.min(least, Math.abs(one - tMs)), Infinity);
  return Float64Array.from({ length: witnesses.length }, (_, row) =>
    Math.max(nearest(startOf, witnesses.col.startMs[row]!), nearest(endOf, witnesses.col.endMs[row]!)),
  ).sort();
}
