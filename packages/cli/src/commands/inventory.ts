import { createWriteStream, existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import {
  askMeasure,
  askPair,
  formatBytes,
  HELD_BY,
  type HoldingAnswer,
  type InventoryChangesAnswer,
  MEASURES,
  type Recording,
} from '@brisk-heron/core';
import type { Command } from 'commander';
import { Option } from 'commander';
import { ExitCode } from '../exit-code.ts';
import type { FilesResult } from '../input/read-files.ts';
import { studyOf } from '../input/study-options.ts';
import { readUsable } from '../read-usable.ts';
import { appendInventoryLines } from '../recording/inventory-lines.ts';
import { say } from '../recording/outgoing.ts';
import { takeInventory } from '../recording/take-inventory.ts';
import { plainAnswer } from '../render/plain-answer.ts';

interface InventoryOptions {
  readonly out?: string;
  readonly by: string;
  readonly find?: string;
  readonly most: string;
  readonly insist?: boolean;
  readonly json?: boolean;
  readonly tables?: string;
  readonly since?: string;
  readonly into?: string;
  readonly heap?: string;
  readonly at?: string;
  readonly took?: string;
}

/** `heron inventory PID|FILE`: what stays in a heap, and what keeps it. */
export function inventoryCommand(command: Command): void {
  const { schema } = MEASURES.holding.contract!;
  command
    .argument('<pid or file>', 'a process id, or a heap dump (.hprof) or heap snapshot (.heapsnapshot), plain or gzip')
    .option('--out <file>', 'keep what the program writes, in this file')
    .option('--by <what>', `tell objects together by ${HELD_BY.join(', ')}`, 'type')
    .option('--find <text>', 'which objects: words of types, own>1MiB, held>10MiB, field=cache, site=alerts')
    .option('--most <number>', 'how many keys at most', '20')
    .option('--tables <folder>', 'write objects, edges, roots and types as Arrow IPC files that common data tools open')
    .option('--since <file>', 'say what came, went and grew since an earlier inventory, or since that of a number')
    .option('--insist', 'take it though memory or disk may be short')
    .option('--json', `one JSON object, ${schema}`)
    .addOption(new Option('--into <recording>', 'add it to a recording, and tell nothing').hideHelp())
    .addOption(new Option('--heap <name>', 'the heap of that recording').default('').hideHelp())
    .addOption(new Option('--at <ms>', 'when it was taken, by the clock of that heap').default('0').hideHelp())
    .addOption(new Option('--took <ms>', 'how long it took').default('0').hideHelp())
    .action(inventory);
}

async function inventory(of: string, options: InventoryOptions): Promise<void> {
  if (options.into !== undefined) return add(of, options.into, options);
  if (existsSync(of) || !/^\d+$/.test(of)) return tell(of, options);
  const kept = options.out === undefined ? null : resolve(options.out);
  if (kept !== null && existsSync(kept))
    return refuse(`expected a new file, found one at ${kept}: nothing is written over it`);
  // Nobody else may read what a program holds.
  const folder = mkdtempSync(join(tmpdir(), 'heron-inventory-'));
  const file = kept ?? join(folder, 'inventory.hprof');
  const clean = (): void => rmSync(folder, { recursive: true, force: true });
  // Also where one does not wait for it.
  process.once('exit', clean);
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => process.exit(ExitCode.failure));
  try {
    await takeInventory(Number(of), { file, insist: options.insist === true, say });
    await tell(file, options);
  } finally {
    clean();
  }
}

// What recorders have taken is added to their recordings by this command, in a process of its own.
async function add(file: string, into: string, { heap = '', at, took }: InventoryOptions): Promise<void> {
  const read = await readUsable([file]);
  if (read === null) return;
  const inventory = read.runs.at(-1)?.inventories.at(-1);
  if (inventory === undefined) return refuse(`${file} has no object that could be read`);
  appendInventoryLines(into, inventory, { heap, tMs: Number(at), pauseMs: Number(took) });
}

async function tell(file: string, options: InventoryOptions): Promise<void> {
  const read = await readUsable([file]);
  if (read === null) return;
  if (options.tables !== undefined) return writeTables(read, options.tables);
  if (options.since !== undefined) return tellSince(read, options.since, options);
  let answer: HoldingAnswer;
  try {
    const asked = { charge: options.by, find: options.find ?? '', most: Number(options.most) };
    answer = askMeasure(studyOf(read), {}, 'holding', asked) as HoldingAnswer;
  } catch (error) {
    return refuse(error instanceof Error ? error.message : String(error));
  }
  if (answer.missing !== '') return refuse(`${file}: ${answer.missing}`);
  const { contract } = MEASURES.holding;
  process.stdout.write(
    options.json === true
      ? `${JSON.stringify({ schema: contract!.schema, ...(plainAnswer(contract!.of(answer)) as object) })}\n`
      : textOf(answer),
  );
}

async function writeTables(read: FilesResult & { readonly runs: readonly Recording[] }, folder: string): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const recording = studyOf(read).run();
  if (recording.inventories.length === 0) return refuse('no inventory was taken');
  // Loaded when it is needed alone.
  const { inventoryArrow } = await import('@brisk-heron/core/events-arrow');
  for (const { name, pieces } of inventoryArrow(recording))
    await pipeline(Readable.from(pieces, { objectMode: true }), createWriteStream(join(folder, `${name}.arrow`)));
  say(`objects, edges, roots and types are in ${folder}`);
}

// Numbers count from 1 where people say them.
async function tellSince(
  read: FilesResult & { readonly runs: readonly Recording[] },
  since: string,
  { by, find = '', most, json }: InventoryOptions,
): Promise<void> {
  const study = studyOf(read);
  const number = !existsSync(since) && /^\d+$/.test(since) ? Number(since) : null;
  const earlier = number === null ? await readUsable([since]) : read;
  if (earlier === null) return;
  const asked = { charge: by, find, most: Number(most), atA: number === null ? null : number - 1 };
  const sides = [
    [number === null ? studyOf(earlier) : study, {}],
    [study, {}],
  ] as const;
  const answer = askPair(sides[0], sides[1], 'inventoryChanges', asked) as InventoryChangesAnswer;
  if (answer.missing !== '') return refuse(answer.missing);
  process.stdout.write(json === true ? `${JSON.stringify(plainAnswer(answer))}\n` : changesText(answer));
}

function changesText({ rows, growing, notes, problem }: InventoryChangesAnswer): string {
  const held = (bytes: number): string => `${bytes < 0 ? '−' : '+'}${formatBytes(Math.abs(bytes))}`;
  return [
    ...(problem === '' ? [] : [`${problem}.`]),
    ...growing,
    '',
    ...rows.map(
      ({ key, a, b, holder }) =>
        `${held(b.heldBytes - a.heldBytes)}  ${key}: ${a.objects.toLocaleString('en')} → ${b.objects.toLocaleString('en')} objects${holder === '' ? '' : `, kept by ${holder}`}`,
    ),
    '',
    ...notes,
    '',
  ].join('\n');
}

// What is the program's own first: what it keeps shows in the library's types as well.
function textOf({ objects, ownBytes, unreachable, groups, groupCount, problem, notes }: HoldingAnswer): string {
  const count = (value: number): string => value.toLocaleString('en');
  const ordered = [...groups.filter(({ isOwn }) => isOwn), ...groups.filter(({ isOwn }) => !isOwn)];
  return [
    `${count(objects)} objects, ${formatBytes(ownBytes)}; ${count(unreachable.objects)} more, ${formatBytes(unreachable.ownBytes)}, can be reached from nowhere.`,
    ...(problem === '' ? [] : [`${problem}.`]),
    '',
    ...ordered.flatMap(({ sentence, ways }) => [sentence, `    ${ways[0]?.steps.join(' → ') ?? ''}`]),
    ...(groupCount > groups.length ? [`and ${count(groupCount - groups.length)} more that hold less`] : []),
    '',
    ...notes,
    '',
  ].join('\n');
}

function refuse(message: string): void {
  process.stderr.write(`heron: ${message}\n`);
  process.exitCode = ExitCode.unusable;
}
