import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, realpathSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { packageFolder } from '../places.ts';

const LIBRARY = 'libbriskheron.so';

/** The JVM cannot be recorded for a reason that the user can mend. */
export class JvmTrouble extends Error {}

/**
 * Path of the agent's library, built first when it is missing or older than its sources.
 * @throws JvmTrouble when there is no JDK, no compiler, or the build fails.
 */
export function ensureAgent(
  root: string,
  javaExecutable: string | null = null,
  env: NodeJS.ProcessEnv = process.env,
): string {
  if (process.platform !== 'linux')
    throw new JvmTrouble(
      `JVMs are recorded on Linux only so far, and this is ${process.platform}: record there, or read the JVM's own log (-Xlog:gc*)`,
    );
  const folder = packageFolder(root, 'recorder-jvm');
  const library = join(folder, 'build', LIBRARY);
  if (existsSync(library) && statSync(library).mtimeMs >= newestSource(folder)) return library;
  for (const tool of ['make', 'cc']) {
    if (spawnSync(tool, ['--version'], { stdio: 'ignore', env }).error !== undefined)
      throw new JvmTrouble(
        `expected a C compiler to build the JVM recorder, found no "${tool}": install one (Debian: apt install gcc make libc6-dev) and run this again`,
      );
  }
  const jdk = findJdk(javaExecutable, env);
  if (jdk === null)
    throw new JvmTrouble(
      'expected a JDK with its headers (include/jvmti.h) to build the JVM recorder: install one (Debian: apt install default-jdk-headless), or name it with JAVA_HOME',
    );
  const built = spawnSync('make', ['-C', folder, `JDK=${jdk}`], { encoding: 'utf8', env });
  if (built.status !== 0)
    throw new JvmTrouble(
      `the JVM recorder could not be built with the headers of ${jdk}:\n${built.stdout}${built.stderr}`,
    );
  return library;
}

/** Older JVMs do not know the options of the recorder, and would not start. */
const LEAST_JAVA = 11;

/**
 * The agent for JVMs that a command may start: the one that is built, or else, where `mayBuild`, a new one. Null where
 * there is no such JVM or no agent for it: the command is then run without. Never throws.
 */
export function agentAtHand(root: string, mayBuild: boolean, env: NodeJS.ProcessEnv = process.env): string | null {
  const home = env['JAVA_HOME'] ?? homeOf('java');
  if (home === null || javaVersion(home) < LEAST_JAVA) return null;
  const library = join(packageFolder(root, 'recorder-jvm'), 'build', LIBRARY);
  if (!mayBuild) return existsSync(library) ? library : null;
  try {
    return ensureAgent(root, null, env);
  } catch {
    return null;
  }
}

// What a JDK or runtime says of itself: JAVA_VERSION="17.0.9"; 0 where it says nothing.
function javaVersion(home: string): number {
  try {
    const version = /^JAVA_VERSION="(?:1\.)?(\d+)/m.exec(readFileSync(join(home, 'release'), 'utf8'));
    return Number(version?.[1] ?? 0);
  } catch {
    return 0;
  }
}

function newestSource(folder: string): number {
  const sources = readdirSync(join(folder, 'src')).map((name) => join(folder, 'src', name));
  return Math.max(...[join(folder, 'Makefile'), ...sources].map((file) => statSync(file).mtimeMs));
}

/**
 * Home of a JDK that has headers: `JAVA_HOME`, the one of the program's `java`, or any installed; null when there is
 * none.
 */
export function findJdk(javaExecutable: string | null, environment: NodeJS.ProcessEnv = process.env): string | null {
  const candidates = [
    environment['JAVA_HOME'],
    homeOf(javaExecutable),
    homeOf('javac'),
    homeOf('java'),
    ...installed(),
  ];
  return (
    candidates.find((home) => home !== undefined && home !== null && existsSync(join(home, 'include', 'jvmti.h'))) ??
    null
  );
}

function installed(): string[] {
  const folder = '/usr/lib/jvm';
  return existsSync(folder) ? readdirSync(folder).map((name) => join(folder, name)) : [];
}

/** Home of the JDK or runtime that an executable belongs to; null when there is no such executable. */
export function homeOf(executable: string | null): string | null {
  if (executable === null) return null;
  const found = executable.includes('/') ? executable : onPath(executable);
  try {
    return found === null ? null : dirname(dirname(realpathSync(found)));
  } catch {
    return null;
  }
}

/** Full path of a command on the search path; null when there is none. */
export function onPath(command: string, environment: NodeJS.ProcessEnv = process.env): string | null {
  const folders = (environment['PATH'] ?? '').split(':');
  return folders.map((folder) => join(folder, command)).find((file) => existsSync(file)) ?? null;
}
