import { type FileHandle, open, stat } from 'node:fs/promises';
import { setTimeout as wait } from 'node:timers/promises';

const CHUNK_BYTES = 256 * 1024;
const LOOK_MS = 250;

/**
 * Reads a growing log to its end and waits for more, until `stopped`. Where it is rotated, the file that was read so
 * far is read to its end before the new one is begun; where it is emptied in place, reading begins anew. Each piece is
 * taken before the next is read.
 */
export async function tailLog(
  file: string,
  take: (bytes: Buffer) => Promise<void>,
  stopped: () => boolean,
): Promise<void> {
  const buffer = Buffer.alloc(CHUNK_BYTES);
  let handle: FileHandle | null = null;
  let offset = 0;
  const readOn = async (from: FileHandle): Promise<void> => {
    for (let got = -1; got !== 0;) {
      ({ bytesRead: got } = await from.read(buffer, 0, CHUNK_BYTES, offset));
      if (got > 0) await take(Buffer.from(buffer.subarray(0, got)));
      offset += got;
    }
  };
  try {
    for (let last = false; !last; await wait(last ? 0 : LOOK_MS)) {
      // Whatever was there when the end was asked for is read.
      last = stopped();
      handle ??= await open(file, 'r').catch(() => null);
      if (handle === null) continue;
      if ((await handle.stat()).size < offset) offset = 0;
      await readOn(handle);
      if (!(await isReplaced(handle, file))) continue;
      // Its writer may have gone on for a moment after it was renamed.
      await readOn(handle);
      await handle.close();
      handle = await open(file, 'r').catch(() => null);
      offset = 0;
      if (handle !== null) await readOn(handle);
    }
  } finally {
    await handle?.close();
  }
}

async function isReplaced(handle: FileHandle, file: string): Promise<boolean> {
  const there = await stat(file).catch(() => null);
  const { dev, ino } = await handle.stat();
  return there !== null && (there.dev !== dev || there.ino !== ino);
}
