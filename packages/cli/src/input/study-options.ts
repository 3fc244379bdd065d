import { parseBytes, parseClock, parseDuration, type Settings, type Side, Study } from '@brisk-heron/core';
import { type Command, InvalidArgumentError } from 'commander';
import type { FilesResult } from './read-files.ts';

/** Settings that hold whatever was noted. */
export interface SettingOptions {
  readonly limit?: number;
  readonly settle?: number;
  readonly own?: string[];
}

/** What of an input is looked at, and by which settings: the options that every command over recordings takes. */
export interface StudyOptions extends SettingOptions {
  readonly span?: { readonly fromMs: number; readonly toMs: number };
  readonly run?: number;
}

/** Adds the options to a command. */
export function addStudyOptions(command: Command): Command {
  return addSettingOptions(command)
    .option('--span <from-to>', 'part of the time, as 0:10-1:00', spanOf)
    .option('--run <number>', 'which run of the input, from 1; the last where none is given', runOf);
}

/** Adds those that settings are given by. */
export function addSettingOptions(command: Command): Command {
  return command
    .option('--limit <size>', 'limit that growth is held against, as 256MiB, instead of the noted one', sizeOf)
    .option('--settle <time>', 'age from which on what lives counts as kept, as 8s', timeOf)
    .option('--own <rule>', 'rule for own code, as src/ or !src/generated/; may be given several times', collect);
}

/** The study of what was read, with what was noted in it and given beside. */
export function studyOf({ notebook, result }: FilesResult, { limit, settle, own }: SettingOptions = {}): Study {
  const over: Partial<Settings> = {
    ...(limit === undefined ? {} : { limitBytes: limit }),
    ...(settle === undefined ? {} : { settleMs: settle }),
    ...(own === undefined ? {} : { ownRules: own }),
  };
  return new Study({ runs: result.ok ? result.runs : [] }, notebook ?? undefined, over);
}

/** The side that the options name. */
export function sideOf({ span, run }: StudyOptions): Side {
  return {
    recording: '',
    run: run === undefined ? null : run - 1,
    heaps: null,
    extent: span === undefined ? { kind: 'whole' } : { kind: 'span', ...span },
  };
}

function sizeOf(text: string): number {
  const bytes = parseBytes(text);
  if (!(bytes > 0)) throw new InvalidArgumentError(`expected a size as 256MiB, found "${text}"`);
  return bytes;
}

function timeOf(text: string): number {
  const ms = parseDuration(text);
  if (!(ms >= 0)) throw new InvalidArgumentError(`expected a time as 8s, found "${text}"`);
  return ms;
}

/** An instant as it is typed. @throws for what is none. */
export function instantOf(text: string): number {
  const tMs = parseClock(text);
  if (!(tMs >= 0)) throw new InvalidArgumentError(`expected an instant as 0:42, found "${text}"`);
  return tMs;
}

/** A span as it is typed. @throws for what is none. */
export function spanOf(text: string): { fromMs: number; toMs: number } {
  const [from = '', to = '', ...more] = text.split(/[-–]/);
  const [fromMs, toMs] = [parseClock(from), parseClock(to)];
  if (more.length > 0 || !(fromMs < toMs))
    throw new InvalidArgumentError(`expected a span as 0:10-1:00, that ends after it begins, found "${text}"`);
  return { fromMs, toMs };
}

/** A run's number as it is typed, from 1. @throws for what is none. */
export function runOf(text: string): number {
  const run = Number(text);
  if (!Number.isInteger(run) || run < 1) throw new InvalidArgumentError(`expected a number from 1, found "${text}"`);
  return run;
}

function collect(rule: string, rules: string[] = []): string[] {
  return [...rules, rule];
}
