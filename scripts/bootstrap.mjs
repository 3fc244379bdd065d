/** Sets up a clone: installs packages and builds, each only when something is missing or older than its sources. */
import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync, mkdirSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));
const stampFile = join(root, 'node_modules', '.brisk-heron-install');
const nodeParts = ['core', 'recorder-node', 'server', 'cli'];

/** Runs a command in the root; its output is shown only when it fails, unless `loud`. */
export function run(command, args, { loud = false, env = process.env } = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: loud ? 'inherit' : 'pipe', encoding: 'utf8', env });
  if (result.status !== 0) {
    if (!loud) process.stderr.write(`${result.stdout ?? ''}${result.stderr ?? ''}`);
    throw new Error(`"${command} ${args.join(' ')}" failed${result.error ? `: ${result.error.message}` : ''}`);
  }
}

/** Installs the locked packages when they are missing or the lock file changed. */
export function install({ loud = false } = {}) {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  if (existsSync(stampFile) && readFileSync(stampFile, 'utf8') === lock) return;
  if (loud) process.stderr.write('installing packages …\n');
  run('npm', ['ci', '--no-audit', '--no-fund', '--include=dev'], { env: { ...process.env, NODE_ENV: 'development' } });
  writeFileSync(stampFile, lock);
}

/** Builds what runs in Node, and with `page` the page as well. */
export function build({ loud = false, page = false } = {}) {
  if (nodeParts.some((part) => isStale([`packages/${part}/src`], `packages/${part}/dist/.stamp`))) {
    if (loud) process.stderr.write('building …\n');
    run('node', ['node_modules/typescript/bin/tsc', '-b']);
    run('node', ['node_modules/vite/bin/vite.js', 'build', 'packages/cli', '--logLevel', 'warn']);
    for (const part of nodeParts) writeStamp(`packages/${part}/dist/.stamp`);
  }
  buildAddon(loud);
  if (
    page &&
    isStale(
      [
        'packages/core/src',
        'docs/words.md',
        'docs/measures.md',
        'packages/web/src',
        'packages/web/index.html',
        'packages/web/vite.config.ts',
      ],
      'packages/web/dist/.stamp',
    )
  ) {
    if (loud) process.stderr.write('building the page …\n');
    run('node', ['node_modules/vite/bin/vite.js', 'build', 'packages/web', '--logLevel', 'warn']);
    writeStamp('packages/web/dist/.stamp');
  }
}

/**
 * Builds the Node recorder's addon where a compiler and Node's headers are; elsewhere the recorder does without, and
 * says so.
 */
function buildAddon(loud) {
  const file = `packages/recorder-node/dist/brisk-heron-${process.versions.modules}.node`;
  const includes = join(dirname(process.execPath), '..', 'include', 'node');
  if (
    !isStale(['packages/recorder-node/addon'], file) ||
    !existsSync(join(includes, 'v8-profiler.h')) ||
    !hasCompiler()
  )
    return;
  if (loud) process.stderr.write('building the addon …\n');
  const folder = `${join(root, file)}.${process.pid}.build`;
  spawnSync(
    'make',
    [
      '-j2',
      '-C',
      join(root, 'packages/recorder-node/addon'),
      `NODE=${process.execPath}`,
      `NODE_INCLUDE=${includes}`,
      `OUT=${join(root, file)}`,
      `BUILD=${folder}`,
    ],
    { stdio: ['ignore', 'ignore', 'inherit'] },
  );
  rmSync(folder, { recursive: true, force: true });
}

function hasCompiler() {
  return ['make', 'g++'].every((tool) => spawnSync(tool, ['--version'], { stdio: 'ignore' }).error === undefined);
}

/** Installs Debian's packages; false where that is not possible. */
export function installPackages(packages) {
  process.stderr.write(`installing ${packages.join(', ')} …\n`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  return [['update'], ['install', '-y', '--no-install-recommends', ...packages]].every(
    (args) => spawnSync('apt-get', args, { stdio: ['ignore', 'ignore', 'inherit'], env }).status === 0,
  );
}

/** A compiler for the addon, where it can be had: without one recording goes through the inspector. */
export function installCompiler() {
  if (!hasCompiler() && process.getuid?.() === 0) installPackages(['g++', 'make']);
}

function writeStamp(file) {
  mkdirSync(dirname(join(root, file)), { recursive: true });
  writeFileSync(join(root, file), '');
}

function isStale(sources, stamp) {
  const file = join(root, stamp);
  if (!existsSync(file)) return true;
  const built = statSync(file).mtimeMs;
  return sources.some((source) => newest(join(root, source)) > built);
}

function newest(path) {
  const stat = statSync(path);
  if (!stat.isDirectory()) return stat.mtimeMs;
  return readdirSync(path).reduce((latest, name) => Math.max(latest, newest(join(path, name))), stat.mtimeMs);
}
