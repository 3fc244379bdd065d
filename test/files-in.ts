import { readdirSync } from 'node:fs';
import { join } from 'node:path';

/** Names of the folders right below a folder, and every file below it. */
export function filesIn(directory: string): { readonly folders: string[]; readonly all: string[] } {
  const entries = readdirSync(directory, { withFileTypes: true }).filter(({ name }) => name !== 'node_modules');
  const folders = entries.filter((entry) => entry.isDirectory()).map(({ name }) => name);
  const files = entries.filter((entry) => entry.isFile()).map(({ name }) => join(directory, name));
  return { folders, all: [...files, ...folders.flatMap((name) => filesIn(join(directory, name)).all)] };
}
