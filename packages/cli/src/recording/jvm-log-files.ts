import { createReadStream } from 'node:fs';
import { appendFile, readdir, readFile, rm } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { createInterface } from 'node:readline';

/** Where the JVM with process id `%p` prints its collector's log, beside the recording it belongs to. */
export function jvmLogFile(spool: string): string {
  return `${spool}.%p.gc`;
}

const LOG_LINE = /^\{"k":"log","h":"(\d+)","upto":(\d+),/;
const PIECE_BYTES = 64 * 1024;

/**
 * A recorder reads its JVM's log itself; what a killed one left unread is added here. Answers how many bytes of log
 * that were. Logs whose recorder said goodbye are whole already.
 */
export async function addLeftoverLogs(spool: string): Promise<number> {
  const logs = await logsOf(spool);
  if (logs.length === 0) return 0;
  const taken = await takenOffsets(spool);
  let added = 0;
  for (const { file, heap } of logs) {
    const from = taken.get(heap);
    if (from === undefined) continue;
    const rest = (await readFile(file)).subarray(from);
    const whole = rest.subarray(0, rest.lastIndexOf(10) + 1);
    await appendFile(spool, piecesOf(whole, heap, from));
    added += whole.length;
  }
  return added;
}

/** Removes the logs of a recording: their lines are in it. */
export async function removeLogs(spool: string): Promise<void> {
  for (const { file } of await logsOf(spool)) await rm(file, { force: true });
}

async function logsOf(spool: string): Promise<{ file: string; heap: string }[]> {
  const names = await readdir(dirname(spool));
  const start = `${basename(spool)}.`;
  return names
    .filter((name) => name.startsWith(start) && /^\d+\.gc$/.test(name.slice(start.length)))
    .map((name) => ({ file: join(dirname(spool), name), heap: name.slice(start.length, -3) }));
}

async function takenOffsets(spool: string): Promise<Map<string, number>> {
  const taken = new Map<string, number>();
  for await (const line of createInterface({ input: createReadStream(spool) })) {
    const log = LOG_LINE.exec(line);
    if (log !== null) taken.set(log[1]!, Number(log[2]));
    const hello = /^\{"k":"hello","h":"(\d+)",.*"log":"jvm-unified"/.exec(line);
    if (hello !== null) taken.set(hello[1]!, 0);
  }
  return taken;
}

function piecesOf(bytes: Buffer, heap: string, offset: number): string {
  let lines = '';
  for (let from = 0; from < bytes.length;) {
    const cut = bytes.subarray(from, from + PIECE_BYTES).lastIndexOf(10) + 1;
    const to = from + (cut > 0 ? cut : PIECE_BYTES);
    lines += `${JSON.stringify({ k: 'log', h: heap, upto: offset + Math.min(to, bytes.length), text: bytes.toString('utf8', from, to) })}\n`;
    from = to;
  }
  return lines;
}
