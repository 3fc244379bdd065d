import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { askMeasure, formatBytes, HELD_BY, type HoldingAnswer, MEASURES } from '@brisk-heron/core';
import { Command, Option } from 'commander';
import { ExitCode } from '../exit-code.ts';
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
  readonly into?: string;
  readonly heap?: string;
  readonly at?: string;
  readonly took?: string;
}

/** `heron inventory PID|FILE`: what stays in a heap, and what keeps it. */
export function inventoryCommand(): Command {
  const { schema } = MEASURES.holding.contract!;
  return new Command('inventory')
    .description(
      'say what stays in a heap and what keeps it: of a running JVM or Node program, or of a dump that it wrote',
    )
    .argument('<pid or file>', 'a process id, or a heap dump (.hprof) or heap snapshot (.heapsnapshot), plain or gzip')
    .option('--out <file>', 'keep what the program writes, in this file')
    .option('--by <what>', `tell objects together by ${HELD_BY.join(', ')}`, 'type')
    .option('--find <text>', 'which objects: words of types, own>1MiB, held>10MiB, field=cache, site=alerts')
    .option('--most <number>', 'how many keys at most', '20')
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
