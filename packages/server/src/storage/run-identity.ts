import { createHash } from 'node:crypto';
import { open } from 'node:fs/promises';

/** Bytes of a stream that tell its run from any other: its first line holds when it began, and the process. */
const MOST_BYTES = 4096;

/**
 * Identity of the run that a stream is of, from its first line (the first 4 KiB of a longer one); '' while that is not
 * whole. Both ends work it out for themselves: a stream goes on only where they agree.
 */
export function runIdentity(beginning: Uint8Array): string {
  const end = beginning.subarray(0, MOST_BYTES).indexOf(10);
  if (end < 0 && beginning.length < MOST_BYTES) return '';
  return createHash('sha256')
    .update(beginning.subarray(0, end < 0 ? MOST_BYTES : end))
    .digest('base64url')
    .slice(0, 22);
}

/** Identity of the run in a file; '' while there is none. */
export async function runIdentityOf(file: string): Promise<string> {
  const beginning = await fileBeginning(file, MOST_BYTES).catch(() => null);
  return beginning === null ? '' : runIdentity(beginning);
}

/** The first bytes of a file, at most so many. */
export async function fileBeginning(file: string, bytes: number): Promise<Buffer> {
  const handle = await open(file, 'r');
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(bytes), 0, bytes, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}
