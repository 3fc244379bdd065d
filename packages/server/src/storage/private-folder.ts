import { randomBytes } from 'node:crypto';
import { accessSync, chmodSync, constants, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';

const TOKEN_BYTES = 32;
const TOKEN = /^[A-Za-z0-9_-]{43}$/;

/**
 * Makes a folder that this user alone can look into, or makes one so that is there.
 * @throws with a message for people when it cannot be made or written to.
 */
export function privateFolder(folder: string): string {
  try {
    makeFolder(resolve(folder));
    chmodSync(folder, 0o700);
    accessSync(folder, constants.R_OK | constants.W_OK | constants.X_OK);
    return folder;
  } catch (error) {
    throw new Error(
      `cannot keep recordings in ${folder} (${(error as NodeJS.ErrnoException).code ?? String(error)}): name a folder that you can write to with BRISK_HERON_DATA`,
      { cause: error },
    );
  }
}

// One by one: the runtime's own way to make all at once never ends where a file system has no room for names, as /proc.
function makeFolder(folder: string): void {
  if (existsSync(folder)) return;
  makeFolder(dirname(folder));
  try {
    mkdirSync(folder, { mode: 0o700 });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
  }
}

/**
 * The word that whoever speaks to a server over this data folder must know: made at first use, in a file for this user
 * alone.
 */
export function accessToken(folder: string): string {
  const file = join(privateFolder(folder), 'token');
  const made = randomBytes(TOKEN_BYTES).toString('base64url');
  try {
    writeFileSync(file, `${made}\n`, { mode: 0o600, flag: 'wx' });
    return made;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
  }
  chmodSync(file, 0o600);
  const token = readFileSync(file, 'utf8').trim();
  if (!TOKEN.test(token))
    throw new Error(
      `expected a token of 43 letters in ${file}, found something else: remove that file, and a new one is made`,
    );
  return token;
}
