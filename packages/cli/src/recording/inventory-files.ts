import { spawn } from 'node:child_process';
import { readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { isOpenElsewhere } from './spool.ts';

const LOOK_MS = 500;
const NAME = /^inventory-([\w.]+)-(\d+)-(\d+)\.(?:hprof|heapsnapshot)$/;
/** What a recorder names one that it is writing: nobody goes on with it once the recorder is gone. */
const UNFINISHED = /^taking-[\w.]+\.(?:hprof|heapsnapshot)$/;

/** An inventory as its runtime wrote it, beside the recording that it belongs to. */
interface InventoryFile {
  readonly file: string;
  /** Heap of the stream, when it was taken by that heap's clock, and how long it took. */
  readonly heap: string;
  readonly tMs: number;
  readonly pauseMs: number;
}

/** Who is told of trouble, in a sentence for people. */
type Say = (words: string) => void;

/**
 * Adds to a recording the inventories that recorders have left beside it, and removes their files: those hold the values
 * of everything that the program had in memory, the recording does not. Answers how many there were.
 */
export async function addInventories(spool: string, say: Say): Promise<number> {
  let added = 0;
  for (const each of filesOf(spool)) {
    const why = await addOne(spool, each);
    if (why === '') {
      rmSync(each.file, { force: true });
      added++;
      continue;
    }
    const kept = join(dirname(each.file), `${basename(each.file, '.hprof')}.unread`);
    renameSync(each.file, kept);
    say(`an inventory could not be added to the recording (${why}); it is in ${kept}, with all values in it`);
  }
  return added;
}

/** Adds them as they come, until it is stopped; the one that is being added then is waited for. */
export function watchInventories(spool: string, say: Say): { stop(): Promise<void> } {
  const until = new AbortController();
  const watching = (async (): Promise<void> => {
    while (!until.signal.aborted) {
      // The recording goes on whatever becomes of an inventory; it is tried again.
      await addInventories(spool, say).catch(() => undefined);
      await wait(LOOK_MS, undefined, { signal: until.signal }).catch(() => undefined);
    }
  })();
  return {
    stop: async () => {
      until.abort();
      await watching;
    },
  };
}

/** Removes what recorders have not finished, once none of them is there any more. */
export function removeUnfinished(spool: string): void {
  if (isOpenElsewhere(spool)) return;
  for (const { name, file } of beside(spool)) if (UNFINISHED.test(name)) rmSync(file, { force: true });
}

// The earlier ones first.
function filesOf(spool: string): InventoryFile[] {
  const found = beside(spool).flatMap(({ name, file }) => {
    const [, heap, tMs, pauseMs] = NAME.exec(name) ?? [];
    return heap === undefined ? [] : [{ file, heap, tMs: Number(tMs), pauseMs: Number(pauseMs) }];
  });
  return found.sort((a, b) => a.tMs - b.tMs);
}

function beside(spool: string): { readonly name: string; readonly file: string }[] {
  const start = `${basename(spool)}.`;
  const folder = dirname(spool);
  if (statSync(folder, { throwIfNoEntry: false }) === undefined) return [];
  return readdirSync(folder)
    .filter((name) => name.startsWith(start))
    .map((name) => ({ name: name.slice(start.length), file: join(folder, name) }));
}

// In a process of its own: it takes memory and time that the recording goes on without. Answers why it failed, or ''.
async function addOne(spool: string, { file, heap, tMs, pauseMs }: InventoryFile): Promise<string> {
  const words = ['inventory', file, '--into', spool, '--heap', heap, '--at', String(tMs), '--took', String(pauseMs)];
  const child = spawn(process.execPath, [...process.execArgv, process.argv[1]!, ...words], {
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  let said = '';
  child.stderr.on('data', (text) => (said = `${said}${String(text)}`.slice(-2000)));
  return new Promise((resolve) => {
    child.on('error', (error) => resolve(error.message));
    child.on('close', (code) =>
      resolve(code === 0 ? '' : said.trim().replace(/^heron: /, '') || `it ended with ${code}`),
    );
  });
}
