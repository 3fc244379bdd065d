import { readFileSync, statfsSync } from 'node:fs';
import { freemem } from 'node:os';

/** What an inventory of a V8 heap takes, in heaps, as measured: memory beside the heap, and the file. */
export const V8_INVENTORY = { memoryRatio: 11, fileRatio: 3 } as const;

/**
 * Why an inventory that takes so much memory and so large a file is better not taken, in words; '' where there is room.
 * `folder` is that of the file.
 */
export function whyNoRoom(memoryBytes: number, fileBytes: number, folder: string): string {
  const { bavail, bsize } = statfsSync(folder);
  if (fileBytes > bavail * bsize)
    return `expected ${mebibytes(fileBytes)} free on the disk of ${folder}, found ${mebibytes(bavail * bsize)}`;
  const free = availableBytes();
  if (memoryBytes > free)
    return `expected ${mebibytes(memoryBytes)} of free memory, found ${mebibytes(free)}: the program might be ended for want of memory`;
  return '';
}

const mebibytes = (bytes: number): string => `${Math.round(bytes / 2 ** 20).toLocaleString('en')} MiB`;

// What the machine can give, or the container, whichever is less.
function availableBytes(): number {
  const limit = numberIn('/sys/fs/cgroup/memory.max');
  const used = numberIn('/sys/fs/cgroup/memory.current');
  const ofMachine = numberIn('/proc/meminfo', /MemAvailable:\s+(\d+)/) * 1024;
  const machine = Number.isNaN(ofMachine) ? freemem() : ofMachine;
  return Number.isNaN(limit - used) ? machine : Math.min(machine, limit - used);
}

function numberIn(file: string, pattern = /^(\d+)/): number {
  try {
    return Number(pattern.exec(readFileSync(file, 'utf8'))?.[1] ?? NaN);
  } catch {
    return NaN;
  }
}
