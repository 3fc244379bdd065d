/**
 * `npm run bench`: every benchmark beside the code; each prints ratios against a baseline in its own process, that of
 * the page its lag.
 */
import { spawnSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { build, install, root } from './bootstrap.mjs';

install({ loud: true });
build({ loud: true });
for (const part of ['core', 'recorder-jvm', 'recorder-node', 'web']) {
  const directory = join(root, 'packages', part, 'bench');
  for (const name of readdirSync(directory).filter((file) => file.endsWith('.bench.mjs'))) {
    process.stdout.write(`\n${part}/${name}\n`);
    spawnSync(process.execPath, ['--max-old-space-size=8192', join(directory, name)], { stdio: 'inherit' });
  }
}
