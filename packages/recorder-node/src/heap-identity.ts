import { readFileSync, realpathSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { getHeapStatistics } from 'node:v8';
import * as threads from 'node:worker_threads';
import type { STREAM_SCHEMA } from '@brisk-heron/core';
import type { RecorderSettings } from './settings.ts';

/** The contract that recorders write by. */
export const STREAM_SCHEMA_NAME: typeof STREAM_SCHEMA = 'brisk-heron/stream@1';

const MOST_CHARS = 80;
/** Without a limit some runtimes tell a number near the greatest there is. */
const MOST_CONTAINER_BYTES = 2 ** 50;
/** Names that say nothing without the folder they lie in. */
const PLAIN = /^(?:index|main|app|server|start|run|cli|bin|cmd)\.[cm]?[jt]sx?$/;

/** What the heap may grow to: its own limit, or the container's where that is lower and ends the process first. */
export function heapLimitBytes(): number {
  const container = process.constrainedMemory?.() ?? 0;
  const heap = getHeapStatistics().heap_size_limit;
  return container > 0 ? Math.min(heap, container) : heap;
}

/** What the process's container lets it have in memory; nothing where it says nothing. */
export function containerLimit(): { container?: number } {
  const bytes = process.constrainedMemory?.() ?? 0;
  return bytes > 0 && bytes < MOST_CONTAINER_BYTES ? { container: bytes } : {};
}

/** What the recording is called: as it was told, else what runs. */
export function programName(settings: RecorderSettings): string {
  return settings.name || scriptName(process.argv[1], process.execArgv) || settings.program;
}

/** What this heap is called: its script and arguments; of a worker the name and script of its thread. */
export function heapName(): string {
  const own = [scriptName(process.argv[1], process.execArgv) || basename(process.execPath), ...process.argv.slice(2)]
    .join(' ')
    .slice(0, MOST_CHARS);
  return threads.isMainThread ? own : workerName(process.argv[1]);
}

/** What a worker is called while neither a name nor its script is known. */
export function unnamedWorker(): string {
  return `worker ${threads.threadId}`;
}

// A worker's own script is its argv[1]; the name it was given, where there is one, newer runtimes tell it.
function workerName(script: string | undefined): string {
  const { threadName } = threads as { threadName?: string | null };
  const file = script === undefined || script.startsWith('[') ? '' : scriptName(script, []);
  const known = [(threadName ?? '').slice(0, MOST_CHARS), file].filter((part) => part !== '').join(' ');
  return known === '' ? unnamedWorker() : `worker ${known}`;
}

/**
 * A script by its name: the command of a package by the command's, `index.js` with its folder, tests as such; '' where
 * none runs.
 */
function scriptName(script: string | undefined, options: readonly string[]): string {
  if (options.some((word) => word === '--test' || word.startsWith('--test='))) return 'node --test';
  if (script === undefined || script === '')
    return options.some((word) => /^(?:-e|--eval|-p|--print)$/.test(word)) ? 'node -e' : '';
  const name = commandName(script) ?? basename(script);
  return PLAIN.test(name) ? `${basename(dirname(script))}/${name}` : name;
}

// The name under which the package offers the script, or null.
function commandName(given: string): string | null {
  const link = /[/\\]node_modules[/\\]\.bin[/\\]([^/\\]+)$/.exec(given);
  if (link !== null) return link[1]!.replace(/\.[cm]?js$/, '');
  const script = realScript(given);
  const inside = /^(.*[/\\]node_modules[/\\]((?:@[^/\\]+[/\\])?[^/\\]+))[/\\]/.exec(script);
  if (inside === null) return null;
  const name = inside[2]!.split(/[/\\]/).pop()!;
  try {
    const { bin } = JSON.parse(readFileSync(join(inside[1]!, 'package.json'), 'utf8')) as { bin?: unknown };
    if (bin !== null && typeof bin === 'object') {
      const here = Object.entries(bin).find(
        ([, file]) => join(inside[1]!, file) === script || join(inside[1]!, `${file}.js`) === script,
      );
      if (here !== undefined) return here[0];
      return Object.keys(bin)[0] ?? name;
    }
  } catch {
    return name;
  }
  return name;
}

/**
 * Rules for own code where the program is a tool out of a dependency's package: the package itself beside what lies
 * outside
 * `node_modules`. Empty for the engineer's own program, for which the usual rules hold.
 */
export function ownRules(script: string | undefined): string[] {
  const inside = /[/\\](node_modules[/\\](?:@[^/\\]+[/\\])?[^/\\]+[/\\])/.exec(realScript(script));
  return inside === null ? [] : ['file:', '/', '!node_modules/', inside[1]!.replaceAll('\\', '/')];
}

function realScript(script: string | undefined): string {
  try {
    return script === undefined ? '' : realpathSync(script);
  } catch {
    return script ?? '';
  }
}
