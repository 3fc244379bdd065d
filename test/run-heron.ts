import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { InputReader } from '../packages/core/src/formats/input-reader.ts';
import type { Recording } from '../packages/core/src/model/recording.ts';

export const ROOT = join(__dirname, '..');

export interface HeronEnd {
  readonly code: number | null;
  readonly signal: NodeJS.Signals | null;
  readonly stdout: string;
  readonly stderr: string;
}

/** Starts the command line of this clone. */
export function startHeron(
  args: readonly string[],
  environment: NodeJS.ProcessEnv = {},
): { child: ChildProcess; end: Promise<HeronEnd> } {
  const child = spawn(join(ROOT, 'heron'), [...args], {
    cwd: ROOT,
    env: { ...process.env, NODE_OPTIONS: '', ...environment },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  const out = { stdout: '', stderr: '' };
  child.stdout!.on('data', (data: Buffer) => {
    out.stdout += data.toString();
  });
  child.stderr!.on('data', (data: Buffer) => {
    out.stderr += data.toString();
  });
  const end = new Promise<HeronEnd>((resolve) =>
    child.once('close', (code, signal) => resolve({ code, signal, ...out })),
  );
  return { child, end };
}

export function runHeron(args: readonly string[], environment: NodeJS.ProcessEnv = {}): Promise<HeronEnd> {
  return startHeron(args, environment).end;
}

/** A directory of its own for a test. */
export function scratch(): string {
  return mkdtempSync(join(tmpdir(), 'heron-test-'));
}

/** The recording that a file holds. @throws when it holds none. */
export function readRecording(file: string): Recording {
  const reader = new InputReader();
  reader.write(readFileSync(file));
  const result = reader.end();
  if (!result.ok) throw new Error(result.message);
  return result.runs[result.runs.length - 1]!;
}

/** What a recording must hold: its text has the sign so often, and it is so old, counted from its first line. */
export interface Enough {
  readonly sign: string;
  readonly times: number;
  readonly leastMs: number;
  /** How long it may take. */
  readonly withinMs?: number;
}

/**
 * Records into a file until it holds enough, however slow the machine is, and then lets the program be stopped.
 * @throws when it never holds enough.
 */
export async function recordUntil(
  args: readonly string[],
  file: string,
  enough: Enough,
  stop: (child: ChildProcess) => void,
): Promise<HeronEnd> {
  const { child, end } = startHeron(args);
  let startMs = Infinity;
  let seen = 0;
  let read = 0;
  let rest = '';
  let ended: HeronEnd | null = null;
  void end.then((how) => {
    ended = how;
  });
  const holdsEnough = async (): Promise<boolean> => {
    if (ended !== null) return true;
    const handle = await open(file);
    const bytes = (
      await handle
        .read(Buffer.alloc((await handle.stat()).size - read), 0, undefined, read)
        .finally(() => handle.close())
    ).buffer;
    read += bytes.length;
    if (read > 0 && startMs === Infinity) startMs = Date.now();
    const lines = (rest + bytes.toString('latin1')).split('\n');
    rest = lines.pop()!;
    for (const line of lines) seen += line.split(enough.sign).length - 1;
    return seen >= enough.times && Date.now() - startMs > enough.leastMs;
  };
  try {
    await until(`enough in ${file}`, holdsEnough, enough.withinMs ?? 200_000);
  } finally {
    stop(child);
  }
  if (ended !== null) throw new Error(`it ended before ${file} held enough: ${JSON.stringify(ended)}`);
  return end;
}

/** A server with the page and the samples. */
export interface ServedHeron {
  readonly address: string;
  /** What it lets in for. */
  readonly token: string;
  /** Asks it as a program does that knows the token. */
  ask(path: string, init?: RequestInit): Promise<Response>;
  /** Ends it, and waits until it has ended. */
  stop(signal?: NodeJS.Signals): Promise<void>;
}

/** Starts the server on a port, over a data directory, and waits until it answers. */
export async function serveHeron({
  port,
  data = scratch(),
}: { port?: number; data?: string } = {}): Promise<ServedHeron> {
  const chosen = port ?? (await freePort());
  const address = `http://127.0.0.1:${chosen}`;
  const { child, end } = startHeron(
    ['serve', '--port', String(chosen), '--samples', join(ROOT, 'examples', 'recordings')],
    { BRISK_HERON_DATA: data },
  );
  await until('the server', () => fetch(`${address}/api/health`).then((response) => response.ok), 120_000);
  return {
    address,
    token: tokenOf(data),
    ask: (path, init) => askHeron(address, data, path, init),
    stop: async (signal = 'SIGTERM') => {
      child.kill(signal);
      await end;
    },
  };
}

/** The token of a data directory. */
export function tokenOf(data: string): string {
  return readFileSync(join(data, 'token'), 'utf8').trim();
}

/** Asks a server over a data directory as a program does that knows its token. */
export function askHeron(address: string, data: string, path: string, init: RequestInit = {}): Promise<Response> {
  return fetch(`${address}${path}`, {
    ...init,
    headers: { ...(init.headers as Record<string, string> | undefined), authorization: `Bearer ${tokenOf(data)}` },
  });
}

/** A port that nothing listens on. */
export function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as AddressInfo;
      server.close(() => resolve(port));
    });
  });
}

/** Waits until the answer is neither null nor false. @throws when it never is. */
export async function until<T>(
  what: string,
  ask: () => Promise<T | null | false | undefined>,
  timeoutMs = 60_000,
): Promise<T> {
  for (const end = Date.now() + timeoutMs; Date.now() < end;) {
    const answer = await ask().catch(() => null);
    if (answer !== null && answer !== false && answer !== undefined) return answer;
    await new Promise((resolve) => setTimeout(resolve, 150));
  }
  throw new Error(`waited in vain for ${what}`);
}

/** Collections that the JVM itself counted while one of the repository's logs was made, as text. */
export function countedCollections(log: string): string {
  const truth = JSON.parse(readFileSync(join(ROOT, 'examples', 'logs', 'truth.json'), 'utf8')) as Record<
    string,
    { young: number; whole: number }
  >;
  return String(truth[log]!.young + truth[log]!.whole);
}
