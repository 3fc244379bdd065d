import { closeSync, existsSync, openSync, readdirSync, readFileSync, readlinkSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { claim, type Claim, ownerOf, privateFolder } from '@brisk-heron/server';
import { dataDirectory } from '../places.ts';

/** Where a recording goes while it is made. */
export interface Destination {
  /** File that recorders append lines to. */
  readonly spool: string;
  /** File that commands are passed on in; '' for none. */
  readonly control: string;
}

/** A file that recorders append to, on its way to a server. It belongs to one process at a time. */
export interface Spool extends Destination {
  /** Id of the stream on the server. */
  readonly id: string;
  readonly claim: Claim;
}

const MOST_TRIES = 10_000;

/** Folder of what is on its way. */
function spoolFolder(): string {
  return privateFolder(join(privateFolder(dataDirectory()), 'outgoing'));
}

/** An id for a run that nobody named. */
export function newStreamId(): string {
  return `${new Date().toISOString().replace(/[:.]/g, '-')}-${process.pid}`;
}

/**
 * Makes a spool under an id that neither another spool nor, by `isTaken`, the server has: the wanted one, else that
 * with a number.
 * @throws when the folder cannot be written to.
 */
export async function makeSpool(wanted: string, isTaken: (id: string) => Promise<boolean>): Promise<Spool> {
  const folder = spoolFolder();
  for (let n = 1; n < MOST_TRIES; n++) {
    const id = n === 1 ? wanted : `${wanted}-${n}`;
    const [spool, control] = [join(folder, `${id}.ndjson`), join(folder, `${id}.control`)];
    if (await isTaken(id)) continue;
    const held = claim(`${spool}.owner`);
    if ('heldBy' in held) continue;
    try {
      closeSync(openSync(spool, 'wx', 0o600));
    } catch (error) {
      held.release();
      if ((error as NodeJS.ErrnoException).code === 'EEXIST') continue;
      throw error;
    }
    closeSync(openSync(control, 'w', 0o600));
    return { id, spool, control, claim: held };
  }
  throw new Error(`every id like "${wanted}" is taken: choose another --id`);
}

/** Takes over the spools of processes that are gone, but for some. */
export function takeLeftSpools(butFor: ReadonlySet<string>): Spool[] {
  const folder = spoolFolder();
  const left: Spool[] = [];
  for (const name of readdirSync(folder)) {
    if (!name.endsWith('.ndjson')) continue;
    const spool = join(folder, name);
    if (butFor.has(spool)) continue;
    const held = claim(`${spool}.owner`);
    if (!('heldBy' in held))
      left.push({ id: name.slice(0, -7), spool, control: join(folder, `${name.slice(0, -7)}.control`), claim: held });
  }
  return left;
}

/** Removes a spool with everything beside it: its lines are at the server. */
export function removeSpool({ spool, control, claim: held }: Spool): void {
  for (const file of [spool, control]) rmSync(file, { force: true });
  held.release();
}

/** True while another process has the file open, as far as this user may see. */
export function isOpenElsewhere(file: string): boolean {
  const there = statSync(file, { throwIfNoEntry: false });
  if (there === undefined) return false;
  for (const pid of existsSync('/proc/self/fd') ? readdirSync('/proc').filter((name) => /^\d+$/.test(name)) : []) {
    if (pid === String(process.pid)) continue;
    try {
      for (const fd of readdirSync(`/proc/${pid}/fd`)) {
        const link = readlinkSync(`/proc/${pid}/fd/${fd}`);
        if (link !== file) continue;
        const open = statSync(`/proc/${pid}/fd/${fd}`);
        if (open.dev === there.dev && open.ino === there.ino) return true;
      }
    } catch {
      // Gone meanwhile, or of another user.
    }
  }
  return false;
}

/**
 * Takes a file of the user's to record into, empty. @throws when another recording is made into it.
 */
export function takeFile(file: string): Claim {
  const owner = ownerOf(`${file}.owner`);
  const held = owner === null ? claim(`${file}.owner`) : { heldBy: owner };
  if ('heldBy' in held)
    throw new Error(`${file} is being recorded into by process ${held.heldBy}: name another file with --out`);
  return held;
}

/** Text of a file that may be missing. */
export function textOf(file: string): string {
  try {
    return readFileSync(file, 'utf8');
  } catch {
    return '';
  }
}
