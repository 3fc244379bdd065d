import { spawn } from 'node:child_process';
import { dirname } from 'node:path';
import { formatBytes, formatDuration, type InventoryCost, inventoryCost } from '@brisk-heron/core';
import { whyNoRoom } from '@brisk-heron/recorder-node';
import { findJcmd, isJvm, isRunning, usedBytes } from './jvm-attach.ts';
import { isNodeProcess, withInspector } from './node-attach.ts';

/** A dump of many gigabytes takes minutes. */
const MOST_MS = 60 * 60_000;

/** How an inventory is taken. */
export interface InventoryWish {
  readonly file: string;
  /** Taken though memory or disk may be short. */
  readonly insist: boolean;
  readonly say: (words: string) => void;
}

/**
 * Has a running JVM or Node program write every object of its heap to a file. It stands still meanwhile; for how long is
 * said before.
 * @throws with a message for people where there is no such program, or memory or disk would be short.
 */
export async function takeInventory(pid: number, { file, insist, say }: InventoryWish): Promise<void> {
  if (!isRunning(pid)) throw new Error(`expected a running process, found none with id ${pid}`);
  if (isJvm(pid)) {
    const jcmd = findJcmd(pid);
    const heapBytes = usedBytes(await jcmdAnswer(jcmd, [String(pid), 'GC.heap_info']));
    allow(heapBytes, inventoryCost('jvm', heapBytes), { file, insist, say });
    await jcmdAnswer(jcmd, [String(pid), 'GC.heap_dump', file]);
    return;
  }
  if (!isNodeProcess(pid))
    throw new Error(`process ${pid} is neither a JVM nor a Node program of this user: no inventory can be taken of it`);
  await withInspector(pid, async (client) => {
    const heapBytes = Number(await client.evaluate('process.memoryUsage().heapUsed'));
    allow(heapBytes, inventoryCost('v8', heapBytes), { file, insist, say });
    await client.evaluate(`require("node:v8").writeHeapSnapshot(${JSON.stringify(file)})`, MOST_MS);
  });
}

function allow(heapBytes: number, cost: InventoryCost, { file, insist, say }: InventoryWish): void {
  const { pauseMs, memoryBytes, fileBytes } = cost;
  if (Number.isNaN(heapBytes))
    say('how much the heap holds is not known, so neither is how long the program will stand still');
  else
    say(
      `the program stands still while it writes its ${formatBytes(heapBytes)} down, for about ${formatDuration(pauseMs)} as a rule${memoryBytes > 0 ? `, and takes up to ${formatBytes(memoryBytes)} more memory` : ''}`,
    );
  if (insist) return;
  const why = whyNoRoom(memoryBytes, fileBytes, dirname(file));
  if (why !== '') throw new Error(`${why}; insist with --insist, or give another folder with --out`);
}

async function jcmdAnswer(jcmd: string, args: readonly string[]): Promise<string> {
  const child = spawn(jcmd, args, { stdio: ['ignore', 'pipe', 'pipe'], timeout: MOST_MS });
  let answer = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => (answer += String(text)));
  const code = await new Promise<number | null>((resolve, reject) => {
    child.on('close', resolve);
    child.on('error', reject);
  });
  // It says so in words, and ends well.
  const refused = /^(?:File exists|Unable to create|.*(?:No such file|Permission denied|No space left)).*$/m.exec(
    answer,
  );
  if (code !== 0 || refused !== null)
    throw new Error(`process ${args[0]} did not write it: ${(refused?.[0] ?? answer).trim().split('\n')[0] ?? ''}`);
  return answer;
}
