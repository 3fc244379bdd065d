import { open, rename, rm, truncate } from 'node:fs/promises';
import { dirname } from 'node:path';

/** Appends to a file of known length and waits until the disk has it; on failure the file is as long as before. */
export async function appendDurably(file: string, length: number, bytes: Buffer): Promise<void> {
  const handle = await open(file, 'a', 0o600);
  try {
    await handle.appendFile(bytes);
    await handle.datasync();
  } catch (error) {
    await truncate(file, length).catch(() => undefined);
    throw error;
  } finally {
    await handle.close();
  }
}

/**
 * Puts a whole file in place of another, if there is one: after a fault the one or the other is there, never a mixture.
 */
export async function replaceDurably(file: string, text: string): Promise<void> {
  const next = `${file}.new`;
  try {
    const handle = await open(next, 'w', 0o600);
    try {
      await handle.writeFile(text);
      await handle.sync();
    } finally {
      await handle.close();
    }
    await rename(next, file);
    await syncFolder(dirname(file));
  } catch (error) {
    await rm(next, { force: true }).catch(() => undefined);
    throw error;
  }
}

// A name in a folder is on the disk when the folder is.
async function syncFolder(folder: string): Promise<void> {
  const handle = await open(folder, 'r');
  await handle.sync().catch(() => undefined);
  await handle.close();
}

/** In words, where the disk is at fault; null for any other error. */
export function isDiskTrouble(error: unknown): string | null {
  const code = (error as NodeJS.ErrnoException | null)?.code ?? '';
  if (code === 'ENOSPC' || code === 'EDQUOT' || code === 'EFBIG')
    return 'the disk of the server is full: make room there; nothing that was acknowledged is lost, and sending goes on by itself';
  if (code === 'EROFS' || code === 'EACCES' || code === 'EPERM' || code === 'EIO')
    return `the server cannot write to its data folder (${code})`;
  return null;
}
