import { spawn, type ChildProcess } from 'node:child_process';

export interface ChildEnd {
  readonly exitCode: number | null;
  readonly signal: NodeJS.Signals | null;
}

const PASSED_ON = ['SIGTERM', 'SIGHUP', 'SIGINT', 'SIGUSR2'] as const;

/**
 * Runs a program with this one's own input, output and signals. Answers how it ended.
 * @throws when the program cannot be started.
 */
export function runChild(command: readonly string[], environment: NodeJS.ProcessEnv): Promise<ChildEnd> {
  const child = spawn(command[0]!, command.slice(1), { stdio: 'inherit', env: environment });
  const handlers = PASSED_ON.map((signal) => [signal, passOn(child, signal)] as const);
  for (const [signal, handler] of handlers) process.on(signal, handler);
  return new Promise((resolve, reject) => {
    const forget = (): void => handlers.forEach(([signal, handler]) => process.off(signal, handler));
    child.once('error', (error) => {
      forget();
      reject(error);
    });
    child.once('close', (exitCode, signal) => {
      forget();
      resolve({ exitCode, signal });
    });
  });
}

// A terminal sends its interrupt to the whole group, so the program has it already.
function passOn(child: ChildProcess, signal: NodeJS.Signals): () => void {
  return () => {
    if (signal === 'SIGINT' && process.stdin.isTTY) return;
    child.kill(signal);
  };
}

/** Ends this process the way the program ended. */
export function endLike(end: ChildEnd): void {
  if (end.signal !== null) process.kill(process.pid, end.signal);
  else process.exitCode = end.exitCode ?? 1;
}
