import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import {
  type Column,
  formatDuration,
  groupParts,
  type Restarts,
  type RunPoint,
  restartsOf,
  runPoints,
  type Table,
} from '@brisk-heron/core';
import type { Command } from 'commander';
import { ExitCode } from '../exit-code.ts';
import { partOf } from '../input/read-files.ts';
import { studyOf } from '../input/study-options.ts';
import { readUsable } from '../read-usable.ts';
import { renderTable } from '../render/table.ts';

const SCHEMA = 'brisk-heron/history@1';

/** `heron history FILES…`: runs of a program over hours or days, one line each. */
export function historyCommand(command: Command): void {
  command
    .argument('<files...>', 'files, plain or gzip, or folders of them')
    .option('--json', `one JSON object, ${SCHEMA}`)
    .action(history);
}

/** A run, and the files that it was read from. */
interface Run extends RunPoint {
  readonly files: readonly string[];
}

async function history(given: readonly string[], { json }: { readonly json?: boolean }): Promise<void> {
  const missing = given.find((file) => !existsSync(file));
  if (missing !== undefined) return refuse(`expected a file or a folder, found none at ${missing}`);
  const files = given.flatMap(filesIn);
  const groups = groupParts(await Promise.all(files.map(partOf)));
  const runs: Run[] = [];
  for (const { files: places } of groups) {
    const parts = places.map((place) => files[place]!);
    const read = await readUsable(parts);
    if (read === null) continue;
    runs.push(...runPoints(studyOf(read)).map((point) => ({ ...point, files: parts })));
  }
  if (runs.length === 0) return refuse('nothing of it could be read');
  // What could not be read was said; the rest is good.
  process.exitCode = ExitCode.done;
  runs.sort((a, b) => (a.startEpochMs ?? 0) - (b.startEpochMs ?? 0));
  const restarts = byProgram(runs);
  if (json === true) process.stdout.write(`${JSON.stringify({ schema: SCHEMA, restarts, runs })}\n`);
  else process.stdout.write(`${saidOf(restarts, runs)}\n\n${renderTable(TABLE, runs)}`);
}

// Of each program by itself; logs that name none are taken for one.
function byProgram(runs: readonly Run[]): (Restarts & { readonly program: string })[] {
  return [...new Set(runs.map(({ program }) => program))].flatMap((program) => {
    const found = restartsOf(runs.filter((run) => run.program === program));
    return found === null ? [] : [{ program, ...found }];
  });
}

function saidOf(restarts: ReturnType<typeof byProgram>, runs: readonly Run[]): string {
  if (restarts.length === 0)
    return `${runs.length} runs; none is a program that climbs and is started again and again.`;
  return restarts.map(({ program, sentence }) => `${program === '' ? '' : `${program}: `}${sentence}`).join('\n');
}

function filesIn(path: string): string[] {
  if (!statSync(path).isDirectory()) return [path];
  return readdirSync(path)
    .map((name) => join(path, name))
    .filter((file) => statSync(file).isFile())
    .sort();
}

function refuse(message: string): void {
  process.stderr.write(`heron: ${message}\n`);
  process.exitCode = ExitCode.unusable;
}

const COLUMNS: readonly Column<Run>[] = [
  {
    head: 'began',
    cell: ({ startEpochMs }) =>
      startEpochMs === null ? 'unknown' : new Date(startEpochMs).toISOString().slice(0, 16).replace('T', ' '),
  },
  { head: 'length', cell: ({ durationMs }) => formatDuration(durationMs) },
  { head: 'verdict', cell: ({ verdict, outOfMemory }) => (outOfMemory ? 'out of memory' : verdict) },
  { head: 'adds', unit: 'bytes/s', cell: ({ growthBytesPerSec }) => growthBytesPerSec },
  { head: 'peak', unit: 'bytes', cell: ({ peakBytes }) => peakBytes },
  { head: 'limit', unit: 'bytes', cell: ({ limitBytes }) => limitBytes },
  { head: 'collecting', unit: 'ratio', cell: ({ lostRatio }) => lostRatio },
  { head: 'p99', unit: 'ms', cell: ({ p99Ms }) => p99Ms },
  { head: 'of', cell: ({ files }) => files.join(' + ') },
];
const TABLE = { rows: (runs: readonly Run[]) => runs, columns: COLUMNS } as unknown as Table<unknown, unknown>;
