import { linkSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { z } from 'zod';

/** Who holds a claim: a process, told from a later one with the same id by when it started. */
const ownerSchema = z.object({ pid: z.number().int().positive(), started: z.string() });

/** A file that says which process something belongs to. A claim whose process is gone counts for nothing. */
export interface Claim {
  /** Gives it up; safe to call twice. */
  release(): void;
}

/** Takes a claim for this process; answers the process id of the one that holds it where that still runs. */
export function claim(file: string): Claim | { readonly heldBy: number } {
  const mine = JSON.stringify({ pid: process.pid, started: startOf(process.pid) });
  const own = `${file}.${process.pid}`;
  for (;;) {
    writeFileSync(own, mine, { mode: 0o600 });
    try {
      // A link is made whole or not at all, so that of two processes one comes first.
      linkSync(own, file);
      return {
        release: () => {
          if (isMine(file, mine)) rmSync(file, { force: true });
        },
      };
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      const owner = ownerOf(file);
      if (owner !== null) return { heldBy: owner };
      rmSync(file, { force: true });
    } finally {
      rmSync(own, { force: true });
    }
  }
}

/** Process id of the running process that a claim belongs to; null where there is none. */
export function ownerOf(file: string): number | null {
  try {
    const { pid, started } = ownerSchema.parse(JSON.parse(readFileSync(file, 'utf8')));
    return isAlive(pid) && startOf(pid) === started ? pid : null;
  } catch {
    return null;
  }
}

function isMine(file: string, mine: string): boolean {
  try {
    return readFileSync(file, 'utf8') === mine;
  } catch {
    return false;
  }
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

// When a process started, in ticks since the machine did; '' where the machine does not tell.
function startOf(pid: number): string {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '';
  } catch {
    return '';
  }
}
