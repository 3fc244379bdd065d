/**
 * `npm run pack`: one tarball of all that runs, `brisk-heron-VERSION.tgz`, which installs and runs elsewhere. Our own
 * packages are carried inside it; theirs are installed from the registry. `node scripts/pack.mjs [FOLDER]`.
 */
import { cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { build, install, root, run } from './bootstrap.mjs';

const PARTS = {
  core: ['dist'],
  server: ['dist'],
  cli: ['dist'],
  'recorder-node': ['dist', 'addon', 'prebuilt', 'README.md'],
  'recorder-jvm': ['Makefile', 'src', 'java', 'README.md'],
  web: ['dist'],
};
const HELD_BY_PAGE = new Set(['web']);
const target = resolve(process.argv[2] ?? '.');

install({ loud: true });
build({ loud: true, page: true });
const staging = mkdtempSync(join(tmpdir(), 'heron-pack-'));
try {
  const own = manifest('.');
  const dependencies = {};
  for (const [name, files] of Object.entries(PARTS)) {
    const [from, to] = [join(root, 'packages', name), join(staging, 'node_modules', '@brisk-heron', name)];
    mkdirSync(to, { recursive: true });
    for (const file of files)
      if (existsSync(join(from, file)))
        cpSync(join(from, file), join(to, file), { recursive: true, filter: (path) => !path.endsWith('.map') });
    const part = existsSync(join(from, 'package.json'))
      ? manifest(join('packages', name))
      : { name, version: own.version };
    const needed = HELD_BY_PAGE.has(name) ? {} : (part.dependencies ?? {});
    for (const [each, version] of Object.entries(needed))
      if (!each.startsWith('@brisk-heron/')) dependencies[each] = version;
    const { exports, type = 'module', version = own.version } = part;
    write(join(to, 'package.json'), { name: `@brisk-heron/${name}`, version, type, exports, files });
  }
  const carried = Object.keys(PARTS).map((name) => `@brisk-heron/${name}`);
  mkdirSync(join(staging, 'bin'));
  writeFileSync(join(staging, 'bin', 'heron.mjs'), commandText());
  for (const file of ['README.md', 'CHANGELOG.md']) cpSync(join(root, file), join(staging, file));
  cpSync(join(root, 'examples', 'recordings'), join(staging, 'samples'), { recursive: true });
  const { name, version, description, license, engines, type } = own;
  write(join(staging, 'package.json'), {
    ...{ name, version, description, license, engines, type },
    bin: { heron: 'bin/heron.mjs' },
    files: ['bin', 'samples', 'README.md', 'CHANGELOG.md'],
    dependencies: { ...dependencies, ...Object.fromEntries(carried.map((each) => [each, version])) },
    bundleDependencies: carried,
  });
  mkdirSync(target, { recursive: true });
  run('npm', ['pack', staging, '--pack-destination', target, '--silent']);
  process.stdout.write(`${join(target, `${name}-${version}.tgz`)}\n`);
} finally {
  rmSync(staging, { recursive: true, force: true });
}

function manifest(folder) {
  return JSON.parse(readFileSync(join(root, folder, 'package.json'), 'utf8'));
}

function write(file, value) {
  writeFileSync(file, `${JSON.stringify(value, null, 2)}\n`);
}

function commandText() {
  return `#!/usr/bin/env node
import { dirname } from 'node:path';
import { fileURLToPath } from 'node:url';
import { main } from '@brisk-heron/cli';

await main(process.argv.slice(2), dirname(dirname(fileURLToPath(import.meta.url))));
`;
}
