import { readdirSync, readFileSync, readlinkSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import { WebSocket } from 'ws';
import { z } from 'zod';

const targetsSchema = z.array(z.object({ webSocketDebuggerUrl: z.url() }));
const answerSchema = z.object({
  id: z.number(),
  error: z.object({ message: z.string() }).optional(),
  result: z
    .object({
      result: z.object({ value: z.unknown() }).optional(),
      exceptionDetails: z
        .object({ text: z.string(), exception: z.object({ description: z.string().optional() }).optional() })
        .optional(),
    })
    .optional(),
});

const LOOK_MS = 100;
const ANSWER_WITHIN_MS = 10_000;
/** State of a listening socket in the kernel's table. */
const LISTENING = '0A';

/** Address of a process's inspector: one that it has open. Null where it has none. */
export async function findInspector(pid: number): Promise<string | null> {
  for (const port of listeningPorts(pid)) {
    try {
      const response = await fetch(`http://127.0.0.1:${port}/json/list`, { signal: AbortSignal.timeout(1000) });
      const [target] = targetsSchema.parse(await response.json());
      if (target !== undefined) return target.webSocketDebuggerUrl;
    } catch {
      // Something else listens there: the program's own server, say.
    }
  }
  return null;
}

/** Waits for a process to open its inspector; null when it does not in time. */
export async function waitForInspector(pid: number, timeoutMs: number): Promise<string | null> {
  for (const until = Date.now() + timeoutMs; Date.now() < until; await wait(LOOK_MS)) {
    const found = await findInspector(pid);
    if (found !== null) return found;
  }
  return null;
}

// Ports of this machine that the process listens at: its sockets, by their number, in the kernel's tables.
function listeningPorts(pid: number): number[] {
  const own = new Set<string>();
  try {
    for (const fd of readdirSync(`/proc/${pid}/fd`)) {
      const inode = /^socket:\[(\d+)\]$/.exec(readlinkSync(`/proc/${pid}/fd/${fd}`))?.[1];
      if (inode !== undefined) own.add(inode);
    }
    return ['tcp', 'tcp6'].flatMap((table) =>
      readFileSync(`/proc/${pid}/net/${table}`, 'utf8')
        .split('\n')
        .slice(1)
        .flatMap((row) => {
          const columns = row.trim().split(/\s+/);
          return columns[3] === LISTENING && own.has(columns[9] ?? '')
            ? [parseInt(columns[1]!.split(':').pop()!, 16)]
            : [];
        }),
    );
  } catch {
    return [];
  }
}

/** One session with a process's inspector. */
export class InspectorClient {
  private readonly socket: WebSocket;
  private next = 1;

  private constructor(socket: WebSocket) {
    this.socket = socket;
  }

  /** @throws when the inspector does not let us in. */
  static async open(address: string): Promise<InspectorClient> {
    const socket = new WebSocket(address, { perMessageDeflate: false });
    await new Promise<void>((resolve, reject) => {
      socket.once('open', () => resolve());
      socket.once('error', reject);
    });
    socket.on('error', () => undefined);
    return new InspectorClient(socket);
  }

  /**
   * Value of an expression in the program's own realm, where `require` is at hand. @throws when it throws, or is not
   * answered.
   */
  async evaluate(expression: string, withinMs = ANSWER_WITHIN_MS): Promise<unknown> {
    const id = this.next++;
    const answer = new Promise<z.infer<typeof answerSchema>>((resolve, reject) => {
      const timer = setTimeout(
        () =>
          reject(
            new Error(`the program does not answer within ${withinMs / 1000} s: does it compute without a break?`),
          ),
        withinMs,
      );
      const take = (data: Buffer): void => {
        const parsed = answerSchema.safeParse(JSON.parse(data.toString()));
        if (!parsed.success || parsed.data.id !== id) return;
        clearTimeout(timer);
        this.socket.off('message', take);
        resolve(parsed.data);
      };
      this.socket.on('message', take);
      this.socket.once('close', () => {
        clearTimeout(timer);
        reject(new Error('the program ended, or closed its inspector'));
      });
    });
    this.socket.send(
      JSON.stringify({
        id,
        method: 'Runtime.evaluate',
        params: { expression, includeCommandLineAPI: true, returnByValue: true, silent: true },
      }),
    );
    const { error, result } = await answer;
    const thrown = result?.exceptionDetails;
    if (error !== undefined || thrown !== undefined)
      throw new Error(error?.message ?? thrown?.exception?.description ?? thrown?.text ?? 'not answered');
    return result?.result?.value;
  }

  close(): void {
    this.socket.close();
  }
}
