import { existsSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';

/** Where the server listens when nothing else is said. */
export const DEFAULT_PORT = 4517;

/** Directory for streams and spools: `$BRISK_HERON_DATA`, else the user's data directory. */
export function dataDirectory(environment: NodeJS.ProcessEnv = process.env): string {
  const given = environment['BRISK_HERON_DATA'];
  if (given !== undefined && given !== '') return given;
  return join(environment['XDG_DATA_HOME'] ?? join(homedir(), '.local', 'share'), 'brisk-heron');
}

/** Address of the server: `$BRISK_HERON_SERVER`, else this machine's default. */
export function serverAddress(environment: NodeJS.ProcessEnv = process.env): string {
  return environment['BRISK_HERON_SERVER'] ?? `http://127.0.0.1:${DEFAULT_PORT}`;
}

/** Where one of our packages lies: in a clone, or in the package that was installed from its tarball. */
export function packageFolder(root: string, name: string): string {
  const inClone = join(root, 'packages', name);
  return existsSync(inClone) ? inClone : join(root, 'node_modules', '@brisk-heron', name);
}
