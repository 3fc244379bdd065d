import { type ChildProcess, spawn } from 'node:child_process';

/** How a program ended. */
export interface ChildEnd {
  readonly exitCode: number | null;
  readonly signal: NodeJS.Signals | null;
}

/**
 * Signals that are the program's: some end it, some ask it for something (a JVM's SIGQUIT for its threads, Node's
 * SIGUSR1 for its inspector).
 */
const PASSED_ON = [
  'SIGTERM',
  'SIGHUP',
  'SIGINT',
  'SIGQUIT',
  'SIGUSR1',
  'SIGUSR2',
  'SIGALRM',
  'SIGCONT',
  'SIGWINCH',
] as const;
/** What a terminal sends to the whole group, so that the program has it already. */
const OF_TERMINAL: ReadonlySet<string> = new Set(['SIGINT', 'SIGQUIT', 'SIGWINCH', 'SIGCONT']);

/** The program could not be started at all; with the exit code that a shell would give. */
export class NoSuchCommand extends Error {
  readonly exitCode: number;

  constructor(command: string, error: NodeJS.ErrnoException) {
    const why =
      error.code === 'ENOENT'
        ? 'there is no such command'
        : error.code === 'EACCES'
          ? 'it may not be run'
          : error.message;
    super(`cannot start "${command}": ${why}. Expected a program and its arguments after --`);
    this.exitCode = error.code === 'ENOENT' ? 127 : 126;
  }
}

/**
 * Runs a program with this one's own input, output and signals. Answers how it ended.
 * @throws NoSuchCommand when the program cannot be started.
 */
export function runChild(command: readonly string[], environment: NodeJS.ProcessEnv): Promise<ChildEnd> {
  const child = spawn(command[0]!, command.slice(1), { stdio: 'inherit', env: environment });
  const handlers = PASSED_ON.map((signal) => [signal, passOn(child, signal)] as const);
  for (const [signal, handler] of handlers) process.on(signal, handler);
  return new Promise((resolve, reject) => {
    const forget = (): void => handlers.forEach(([signal, handler]) => process.off(signal, handler));
    child.once('error', (error) => {
      forget();
      reject(new NoSuchCommand(command[0]!, error));
    });
    child.once('close', (exitCode, signal) => {
      forget();
      resolve({ exitCode, signal });
    });
  });
}

function passOn(child: ChildProcess, signal: NodeJS.Signals): () => void {
  return () => {
    if (OF_TERMINAL.has(signal) && process.stdin.isTTY) return;
    child.kill(signal);
  };
}

/** Ends this process the way the program ended. */
export function endLike(end: ChildEnd): void {
  if (end.signal !== null) process.kill(process.pid, end.signal);
  else process.exitCode = end.exitCode ?? 1;
}
