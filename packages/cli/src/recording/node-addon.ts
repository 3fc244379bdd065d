import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, rmSync, statSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { packageFolder } from '../places.ts';
import { onPath } from './jvm-agent.ts';

/** Where the addon for a Node is; or why there is none, so that its recorder does without. */
export type AddonAtHand = { readonly file: string } | { readonly file: null; readonly why: string };

interface NodeFacts {
  readonly executable: string;
  readonly abi: string;
  readonly includes: string;
}

/**
 * The addon of the Node recorder for the Node that a command starts (else for this one): carried along, or built at
 * first use and when its sources changed. Never throws: recording goes on without.
 */
export function ensureAddon(
  root: string,
  command: readonly string[],
  env: NodeJS.ProcessEnv = process.env,
): AddonAtHand {
  const node = factsOf(command[0] ?? '', env);
  if (node === null) return { file: null, why: 'the Node that runs cannot be asked for its ABI' };
  const folder = packageFolder(root, 'recorder-node');
  const name = `brisk-heron-${node.abi}.node`;
  const built = join(folder, 'dist', name);
  const carried = join(folder, 'prebuilt', `${process.platform}-${process.arch}`, name);
  const sources = join(folder, 'addon');
  const hasSources = existsSync(join(sources, 'Makefile'));
  if (existsSync(built) && (!hasSources || statSync(built).mtimeMs >= newest(sources))) return { file: built };
  if (existsSync(carried) && (!hasSources || statSync(carried).mtimeMs >= newest(sources))) return { file: carried };
  const missing = !hasSources
    ? 'its sources'
    : (missingTool(env) ??
      (existsSync(join(node.includes, 'v8-profiler.h')) ? null : `the headers of Node in ${node.includes}`));
  if (missing !== null)
    return existsSync(built)
      ? { file: built }
      : existsSync(carried)
        ? { file: carried }
        : { file: null, why: `building it needs ${missing}` };
  mkdirSync(dirname(built), { recursive: true });
  const made = spawnSync(
    'make',
    [
      '-j2',
      '-C',
      sources,
      `NODE=${node.executable}`,
      `NODE_INCLUDE=${node.includes}`,
      `OUT=${built}`,
      `BUILD=${built}.${process.pid}.build`,
    ],
    { encoding: 'utf8', env: withoutOptions(env) },
  );
  rmSync(`${built}.${process.pid}.build`, { recursive: true, force: true });
  return made.status === 0
    ? { file: built }
    : { file: null, why: `it could not be built: ${made.stderr.trim().split('\n')[0]?.slice(0, 200) ?? ''}` };
}

function factsOf(executable: string, env: NodeJS.ProcessEnv): NodeFacts | null {
  const other = /^node(?:js)?$/.test(basename(executable))
    ? executable.includes('/')
      ? executable
      : onPath(executable, env)
    : null;
  if (other === null || other === process.execPath)
    return {
      executable: process.execPath,
      abi: process.versions.modules,
      includes: join(dirname(process.execPath), '..', 'include', 'node'),
    };
  const asked = spawnSync(other, ['-p', '[process.versions.modules, process.execPath].join(" ")'], {
    encoding: 'utf8',
    env: withoutOptions(env),
  });
  const [abi, path] = asked.stdout?.trim().split(/ (.*)/s) ?? [];
  return asked.status === 0 && abi !== undefined && path !== undefined
    ? { executable: path, abi, includes: join(dirname(path), '..', 'include', 'node') }
    : null;
}

function missingTool(env: NodeJS.ProcessEnv): string | null {
  return (
    ['make', 'g++'].find((tool) => spawnSync(tool, ['--version'], { stdio: 'ignore', env }).error !== undefined) ?? null
  );
}

function withoutOptions(env: NodeJS.ProcessEnv): NodeJS.ProcessEnv {
  return { ...env, NODE_OPTIONS: '' };
}

function newest(folder: string): number {
  return Math.max(...readdirSync(folder).map((name) => statSync(join(folder, name)).mtimeMs));
}
