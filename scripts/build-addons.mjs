/**
 * Builds the Node recorder's addon for every Node that is supported, into packages/recorder-node/prebuilt, from where
 * it is packed: so that nobody needs a compiler. The Nodes with their headers come from the package registry. `npm run
 * addons`.
 */
import { spawnSync } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { install, root } from './bootstrap.mjs';
import { nodeFor, NODES } from './nodes.mjs';

install({ loud: true });
if (process.platform !== 'linux' || process.arch !== 'x64')
  throw new Error(`expected Linux on x64, found ${process.platform} on ${process.arch}`);
const folder = join(root, 'packages/recorder-node');
const target = join(folder, 'prebuilt', 'linux-x64');
mkdirSync(target, { recursive: true });
for (const { abi, version } of NODES) {
  const home = nodeFor(version);
  if (home === null) throw new Error(`Node ${version} could not be had from the package registry`);
  const out = join(target, `brisk-heron-${abi}.node`);
  const made = spawnSync(
    'make',
    [
      '-j2',
      '-C',
      join(folder, 'addon'),
      `NODE=${join(home, 'bin/node')}`,
      `NODE_INCLUDE=${join(home, 'include/node')}`,
      `OUT=${out}`,
      `BUILD=${out}.build`,
    ],
    { stdio: 'inherit' },
  );
  rmSync(`${out}.build`, { recursive: true, force: true });
  if (made.status !== 0) throw new Error(`the addon for Node ${version} could not be built`);
  const loads = spawnSync(join(home, 'bin/node'), ['-e', `process.dlopen({ exports: {} }, ${JSON.stringify(out)})`], {
    stdio: 'inherit',
  });
  if (loads.status !== 0) throw new Error(`the addon for Node ${version} does not load`);
  process.stdout.write(`${out}\n`);
}
