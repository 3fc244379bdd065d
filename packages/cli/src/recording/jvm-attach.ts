import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, realpathSync } from 'node:fs';
import { join } from 'node:path';
import { homeOf, JvmTrouble, onPath } from './jvm-agent.ts';
import { agentOptions, type JvmSettings, LOG_DECORATIONS } from './jvm-launch.ts';
import { textOf } from './spool.ts';

/** What the agent answers when it is loaded; JNI's own failure is negative. */
const ANSWERS: ReadonlyMap<string, string> = new Map(
  Object.entries({
    101: 'it did not understand its options',
    102: 'that JVM does not give what a recording needs; its standard error says more',
    103: 'it is being recorded already: end that recording first (Ctrl-C where it runs)',
  }),
);

/**
 * Loads the agent into a JVM that runs, with its collector's log switched on.
 * @throws JvmTrouble when there is no such JVM, no `jcmd`, or the JVM refuses.
 */
export function attachAgent(pid: number, library: string, settings: JvmSettings): void {
  if (!isJvm(pid)) throw new JvmTrouble(`process ${pid} is not a JVM of this user: see "jcmd -l" for those that are`);
  const jcmd = findJcmd(pid);
  ask(jcmd, [
    String(pid),
    'VM.log',
    `output=file=${settings.log}`,
    'what=gc*=info',
    `decorators=${LOG_DECORATIONS}`,
    'output_options=filecount=0',
  ]);
  const answer = ask(jcmd, [String(pid), 'JVMTI.agent_load', library, `"${agentOptions(settings)}"`]);
  const code = /return code: (-?\d+)/.exec(answer)?.[1];
  if (code === '0') return;
  closeLog(pid, settings.log);
  throw new JvmTrouble(
    `the recorder could not be loaded into process ${pid}: ${ANSWERS.get(code ?? '') ?? answer.trim()}`,
  );
}

/** Switches the collector's log off again; a JVM that is gone needs nothing. */
export function closeLog(pid: number, log: string): void {
  if (isRunning(pid))
    spawnSync(findJcmd(pid), [String(pid), 'VM.log', `output=file=${log}`, 'what=all=off'], {
      stdio: 'ignore',
      timeout: 10_000,
    });
}

/**
 * True for a process that has the JVM's library loaded. It must be asked before anything is said to the process: to
 * call a JVM is to send it SIGQUIT, which ends any other program.
 */
export function isJvm(pid: number): boolean {
  try {
    return /\/libjvm\.so/.test(readFileSync(`/proc/${pid}/maps`, 'utf8'));
  } catch {
    return false;
  }
}

/** True while the process runs: one that has ended and waits for its parent to notice does not. */
export function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return !/^State:\s*[ZX]/m.test(textOf(`/proc/${pid}/status`));
  } catch (error) {
    return error instanceof Error && 'code' in error && error.code === 'EPERM';
  }
}

/** The `java` that the process runs; null when it cannot be seen. */
export function executableOf(pid: number): string | null {
  try {
    return realpathSync(`/proc/${pid}/exe`);
  } catch {
    return null;
  }
}

/** The JVM's own jcmd, which speaks its language best, or any other of the machine. @throws JvmTrouble for none. */
export function findJcmd(pid: number): string {
  const home = homeOf(executableOf(pid));
  const own = home === null ? null : join(home, 'bin', 'jcmd');
  const found = own !== null && existsSync(own) ? own : onPath('jcmd');
  if (found === null)
    throw new JvmTrouble(
      'expected the JDK\'s "jcmd" to reach a running JVM, found none: install a JDK (Debian: apt install default-jdk-headless)',
    );
  return found;
}

/** What a JVM's heap uses, in each collector's own words; NaN where they are others. */
export function usedBytes(info: string): number {
  const unit = (text: string | undefined): number => (text === 'G' ? 2 ** 30 : text === 'M' ? 2 ** 20 : 1024);
  const spaces = [...info.matchAll(/total \d+[KMG], used (\d+)([KMG])/g)];
  const whole = /(?:ZHeap|Heap:?)\s+used (\d+)([KMG])/.exec(info) ?? /(\d+)([KMG]) used/.exec(info);
  const found = spaces.length > 0 ? spaces : whole === null ? [] : [whole];
  return found.length === 0 ? NaN : found.reduce((sum, [, number, of]) => sum + Number(number) * unit(of), 0);
}

function ask(jcmd: string, args: readonly string[]): string {
  const answer = spawnSync(jcmd, [...args], { encoding: 'utf8', timeout: 30_000 });
  if (answer.status !== 0)
    throw new JvmTrouble(
      `process ${args[0]} does not answer: ${(answer.stderr || answer.stdout).trim().split('\n')[0] ?? ''}`,
    );
  return answer.stdout;
}
