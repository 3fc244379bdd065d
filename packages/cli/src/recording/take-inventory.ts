import { spawn } from 'node:child_process';
import { readFileSync, statfsSync } from 'node:fs';
import { freemem } from 'node:os';
import { dirname } from 'node:path';
import { formatBytes, formatDuration } from '@brisk-heron/core';
import { findJcmd, isJvm, isRunning, usedBytes } from './jvm-attach.ts';
import { isNodeProcess, withInspector } from './node-attach.ts';

/** What an inventory of a running program costs it, as measured: docs/inventories.md. */
const JVM_MS_PER_BYTE = 9000 / 2 ** 30;
const V8_MS_PER_BYTE = 150 / 2 ** 20;
/** Memory outside the heap that V8 takes meanwhile, in heaps; and the file, in heaps. */
const V8_MEMORY_RATIO = 11;
const V8_FILE_RATIO = 3;
const JVM_FILE_RATIO = 2;
/** A dump of many gigabytes takes minutes. */
const MOST_MS = 60 * 60_000;

/** What taking an inventory will cost, told before it is taken. */
interface InventoryCost {
  readonly heapBytes: number;
  readonly pauseMs: number;
  /** Memory beside the heap while it is taken. */
  readonly memoryBytes: number;
  readonly fileBytes: number;
}

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
    const fileBytes = JVM_FILE_RATIO * heapBytes;
    allow({ heapBytes, pauseMs: heapBytes * JVM_MS_PER_BYTE, memoryBytes: 0, fileBytes }, { file, insist, say });
    await jcmdAnswer(jcmd, [String(pid), 'GC.heap_dump', file]);
    return;
  }
  if (!isNodeProcess(pid))
    throw new Error(`process ${pid} is neither a JVM nor a Node program of this user: no inventory can be taken of it`);
  await withInspector(pid, async (client) => {
    const heapBytes = Number(await client.evaluate('process.memoryUsage().heapUsed'));
    const memoryBytes = V8_MEMORY_RATIO * heapBytes;
    const fileBytes = V8_FILE_RATIO * heapBytes;
    allow({ heapBytes, pauseMs: heapBytes * V8_MS_PER_BYTE, memoryBytes, fileBytes }, { file, insist, say });
    await client.evaluate(`require("node:v8").writeHeapSnapshot(${JSON.stringify(file)})`, MOST_MS);
  });
}

function allow(cost: InventoryCost, { file, insist, say }: InventoryWish): void {
  const { heapBytes, pauseMs, memoryBytes, fileBytes } = cost;
  if (Number.isNaN(heapBytes))
    say('how much the heap holds is not known, so neither is how long the program will stand still');
  else
    say(
      `the program stands still while it writes its ${formatBytes(heapBytes)} down, for about ${formatDuration(Math.max(100, pauseMs))} as a rule${memoryBytes > 0 ? `, and takes up to ${formatBytes(memoryBytes)} more memory` : ''}`,
    );
  if (insist) return;
  const { bavail, bsize } = statfsSync(dirname(file));
  if (fileBytes > bavail * bsize)
    throw new Error(
      `expected ${formatBytes(fileBytes)} free on the disk of ${dirname(file)}, found ${formatBytes(bavail * bsize)}: give another folder with --out, or insist with --insist`,
    );
  const free = availableBytes();
  if (memoryBytes > free)
    throw new Error(
      `expected ${formatBytes(memoryBytes)} of free memory for it, found ${formatBytes(free)}: the program might be ended for want of memory; insist with --insist`,
    );
}

// What the machine can give, or the container, whichever is less.
function availableBytes(): number {
  const [limit, used] = ['max', 'current'].map((name) => numberIn(`/sys/fs/cgroup/memory.${name}`));
  const ofMachine = numberIn('/proc/meminfo', /MemAvailable:\s+(\d+)/) * 1024;
  const machine = Number.isNaN(ofMachine) ? freemem() : ofMachine;
  return Number.isNaN(limit! - used!) ? machine : Math.min(machine, limit! - used!);
}

function numberIn(file: string, pattern = /^(\d+)/): number {
  try {
    return Number(pattern.exec(readFileSync(file, 'utf8'))?.[1] ?? NaN);
  } catch {
    return NaN;
  }
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
