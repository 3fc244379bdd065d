import { askPair, PAIR_MEASURES, type SideAsk, type Study } from '@brisk-heron/core';
import { basename } from 'node:path';
import type { Command } from 'commander';
import { InvalidArgumentError } from 'commander';
import { ExitCode } from '../exit-code.ts';
import { addSettingOptions, instantOf, runOf, type SettingOptions, spanOf, studyOf } from '../input/study-options.ts';
import { readUsable } from '../read-usable.ts';
import { comparisonText } from '../render/comparison-text.ts';
import { plainAnswer } from '../render/plain-answer.ts';

interface CompareOptions extends SettingOptions {
  readonly spanA?: { readonly fromMs: number; readonly toMs: number };
  readonly spanB?: { readonly fromMs: number; readonly toMs: number };
  readonly momentA?: number;
  readonly momentB?: number;
  readonly roundA?: RoundAsked;
  readonly roundB?: RoundAsked;
  readonly runA?: number;
  readonly runB?: number;
  readonly charge?: string;
  readonly find?: string;
  readonly of?: string;
  readonly round?: string;
  readonly rule?: string[];
  readonly json?: boolean;
}

/** `heron compare A B`: what changed from one side to the other. */
export function compareCommand(command: Command): void {
  const { schema } = PAIR_MEASURES.comparison.contract!;
  command
    .argument('<a>', 'before: a GC log or a recording, plain or gzip')
    .argument('[b]', 'after; the same file where it is left out')
    .option('--span-a <from-to>', 'part of the time of A, as 0:10-1:00', spanOf)
    .option('--span-b <from-to>', 'part of the time of B', spanOf)
    .option('--moment-a <time>', 'A is what was until then and lived then, as 0:42', instantOf)
    .option('--moment-b <time>', 'B is', instantOf)
    .option('--round-a <label:number>', 'A is a round between two marks of a label, as "tide over:3"', roundOf)
    .option('--round-b <label:number>', 'B is', roundOf)
    .option('--run-a <number>', 'which run of A, from 1; the last where none is given', runOf)
    .option('--run-b <number>', 'which run of B', runOf)
    .option('--charge <key>', 'what allocations are charged to: ownFrame, site, function, file, package, type, …')
    .option('--find <text>', 'what stands in the find field')
    .option('--of <what>', 'what of keys is compared: growth, allocated or kept')
    .option('--round <label>', 'label of the mark whose rounds figures are per')
    .option('--rule <text>', 'what a build changes in names, as chunk-{hash}.js, instead of the usual', gathered)
    .option('--json', `one JSON object, ${schema}`);
  addSettingOptions(command).action(compare);
}

async function compare(fileA: string, fileB: string | undefined, options: CompareOptions): Promise<void> {
  const sides = [sideOf(options, 'A'), sideOf(options, 'B')] as const;
  if (fileB === undefined && sides.every((side) => isWhole(side)))
    return refuse(
      'expected two files, or one of which parts are compared: --span-a and --span-b, or with moment, round or run in place of span',
    );
  const a = await studyIn(fileA, options);
  const b = fileB === undefined || a === null ? a : await studyIn(fileB, options);
  if (a === null || b === null) return;
  let answer: unknown;
  try {
    answer = askPair([a, sides[0]], [b, sides[1]], 'comparison', askOf(options));
  } catch (error) {
    return refuse(error instanceof Error ? error.message : String(error));
  }
  const { contract } = PAIR_MEASURES.comparison;
  if (options.json === true)
    process.stdout.write(
      `${JSON.stringify({ schema: contract!.schema, ...(plainAnswer(contract!.of(answer as never)) as object) })}\n`,
    );
  else process.stdout.write(comparisonText(answer as Parameters<typeof comparisonText>[0]));
}

async function studyIn(file: string, options: CompareOptions): Promise<Study | null> {
  const read = await readUsable([file]);
  if (read === null) return null;
  const study = studyOf(read, options);
  study.name = basename(file);
  return study;
}

interface RoundAsked {
  readonly label: string;
  readonly number: number;
}

function sideOf(options: CompareOptions, which: 'A' | 'B'): SideAsk {
  const { [`span${which}` as const]: span, [`moment${which}` as const]: tMs } = options;
  const { [`round${which}` as const]: round, [`run${which}` as const]: run } = options;
  return { run: run === undefined ? null : run - 1, extent: extentOf(span, tMs, round) };
}

function extentOf(
  span: CompareOptions['spanA'],
  tMs: number | undefined,
  round: RoundAsked | undefined,
): NonNullable<SideAsk['extent']> {
  if (span !== undefined) return { kind: 'span', ...span };
  if (tMs !== undefined) return { kind: 'moment', tMs };
  return round === undefined ? { kind: 'whole' } : { kind: 'round', ...round };
}

const isWhole = ({ run, extent }: SideAsk): boolean => run === null && extent?.kind === 'whole';

function roundOf(text: string): RoundAsked {
  const [, label, number] = /^(.+):(\d+)$/.exec(text) ?? [];
  if (label === undefined || Number(number) < 1)
    throw new InvalidArgumentError('expected the label of a mark and a number from 1, as "tide over:3".');
  return { label, number: Number(number) };
}

function askOf({ charge, find, of, round, rule }: CompareOptions): object {
  const given = { charge, find, of, round, rules: rule };
  return Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined));
}

function refuse(message: string): void {
  process.stderr.write(`heron: ${message}\n`);
  process.exitCode = ExitCode.unusable;
}

function gathered(value: string, values: string[] = []): string[] {
  return [...values, value];
}
