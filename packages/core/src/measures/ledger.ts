import { z } from 'zod';
import { type AlikeRun, alikeRuns } from '../analysis/alike-runs.ts';
import { NONE } from '../base/ids.ts';
import { spanLengthMs } from '../base/span.ts';
import { fileName, frameText } from '../model/call-path.ts';
import { keyText } from '../model/charge.ts';
import { isOwnFile, nearestOwnPaths } from '../model/own-frame.ts';
import type { Recording } from '../model/recording.ts';
import { findKinds } from '../query/find-objects.ts';
import {
  type Ledger,
  ledgerCollection,
  LedgerKind,
  type LedgerKindCode,
  ledgerOf,
  ledgerPlace,
} from '../query/ledger.ts';
import { piece } from '../study/piece.ts';
import { foundInput, type FoundInput, type Look, type Subject } from '../study/subject.ts';
import { LOOK_ASK, measure } from './measure.ts';
import { scopeName } from './ribbon.ts';

/** Which lines are wanted: from a place, or where an instant or a collection leads to. */
export type LedgerAim =
  | { readonly kind: 'place'; readonly place: number }
  | { readonly kind: 'time'; readonly tMs: number }
  | { readonly kind: 'collection'; readonly place: number; readonly by: 1 | -1 };

/** What is asked of the ledger. */
export interface LedgerAsk {
  readonly look: Look;
  readonly aim: LedgerAim;
  readonly count: number;
  /** A gap that ends a run of alike allocations, in milliseconds. */
  readonly gapMs: number;
  /** Whether runs are told beside the lines. */
  readonly runs: boolean;
}

/** One event in words. */
export interface LedgerLine {
  readonly place: number;
  readonly tMs: number;
  /** How far off the time may be, either way; 0 where it was told exactly. */
  readonly offMs: number;
  readonly kind: LedgerKindCode;
  /** Row in the table of its kind. */
  readonly row: number;
  /** Type of an object, label of a collection or mark. */
  readonly what: string;
  /**
   * The object's size, what the collection left, or the flow's bytes; NaN for none. `scaled` for a source's estimate of
   * what a sample stands for.
   */
  readonly bytes: number;
  /** Standard error of a flow's bytes; 0 for anything else. */
  readonly bytesSe: number;
  readonly scaled: boolean;
  /**
   * Lifetime by the time its death was noticed; NaN while it is followed, and with `lost` when following ended. How
   * long a collection took, and a flow's interval.
   */
  readonly lifetimeMs: number;
  readonly lost: boolean;
  readonly thread: string;
  /** Allocating frame, and the nearest own one where that is another. */
  readonly site: string;
  readonly own: string;
  /** The nearest own frame as a key; null where the call path is not known. */
  readonly ownKey: string | null;
}

/** A run of alike allocations in words. */
export interface RunLine extends AlikeRun {
  readonly type: string;
  readonly site: string;
  readonly perSec: number;
}

/** A window of the ledger, and the runs of alike allocations. */
export interface LedgerAnswer {
  readonly total: number;
  /** Place of the first line here. */
  readonly place: number;
  /** Place that the aim led to, which near the end is not the first line. */
  readonly aimed: number;
  readonly lines: readonly LedgerLine[];
  /** None where they were not asked for. */
  readonly runs: readonly RunLine[];
}

const MOST_RUNS = 40;

/** Answers `ledger` of a subject that the look was found in. */
export function ledgerAnswerOf(subject: Subject, { look, aim, count, gapMs, runs: withRuns }: LedgerAsk): LedgerAnswer {
  const { recording } = subject;
  const ledger = ledgerFor(subject, look);
  const runs = withRuns ? subject.get(RUNS, { ...foundInput(look), gapMs }) : [];
  const total = ledger.row.length;
  const led =
    aim.kind === 'place'
      ? aim.place
      : aim.kind === 'time'
        ? ledgerPlace(ledger, aim.tMs)
        : ledgerCollection(ledger, aim.place, aim.by);
  const aimed = Math.max(0, Math.min(total - 1, led < 0 && aim.kind === 'collection' ? aim.place : led));
  const place = Math.max(0, Math.min(total - count, aimed));
  return {
    total,
    place,
    aimed,
    lines: ledgerLines(subject, ledger, place, Math.min(total, place + count)),
    runs: runs.map((run) => ({
      ...run,
      ...runWords(recording, run.originId),
      perSec: run.count / Math.max(1e-3, spanLengthMs(run) / 1000),
    })),
  };
}

/** Every event that a look lets through, in order. */
export function ledgerFor(subject: Subject, look: Look): Ledger {
  return subject.get(LEDGER, foundInput(look));
}

/** Lines from one place to before another. */
export function ledgerLines(subject: Subject, ledger: Ledger, from: number, to: number): LedgerLine[] {
  const nearest = subject.get(NEAREST, null);
  return Array.from({ length: to - from }, (_, at) =>
    lineOf(
      subject.recording,
      { place: from + at, kind: ledger.kind[from + at]! as LedgerKindCode, row: ledger.row[from + at]! },
      nearest,
    ),
  );
}

interface Entry {
  readonly place: number;
  readonly kind: LedgerKindCode;
  readonly row: number;
}

function lineOf(recording: Recording, { place, kind, row }: Entry, nearest: Uint32Array): LedgerLine {
  const none = {
    offMs: 0,
    bytes: NaN,
    bytesSe: 0,
    scaled: false,
    lifetimeMs: NaN,
    lost: false,
    what: '',
    thread: '',
    site: '',
    own: '',
    ownKey: null,
  };
  const { collections, marks, objects, flows } = recording.tables;
  const text = (id: number): string => textOf(recording, id);
  switch (kind) {
    case LedgerKind.mark:
      return { place, tMs: marks.col.tMs[row]!, kind, row, ...none, what: text(marks.col.labelId[row]!) };
    case LedgerKind.collection: {
      const { startMs, endMs, labelId, scope, usedAfterBytes } = collections.col;
      return {
        place,
        tMs: startMs[row]!,
        kind,
        row,
        ...none,
        what: `${scopeName(scope[row]!)}: ${text(labelId[row]!)}`,
        bytes: usedAfterBytes[row]!,
        lifetimeMs: endMs[row]! - startMs[row]!,
      };
    }
    case LedgerKind.flow: {
      const { fromMs, toMs, bytes, seBytes, originId } = flows.col;
      return {
        place,
        tMs: fromMs[row]!,
        kind,
        row,
        ...none,
        bytes: bytes[row]!,
        bytesSe: seBytes[row]!,
        lifetimeMs: toMs[row]! - fromMs[row]!,
        ...originWords(recording, originId[row]!, nearest),
      };
    }
    case LedgerKind.birth: {
      const { bornMs, bornEarlyMs, bornLateMs, endMs, lost, sizeBytes, probability, originId } = objects.col;
      return {
        place,
        tMs: bornMs[row]!,
        kind,
        row,
        ...none,
        offMs: Math.max(bornEarlyMs[row]!, bornLateMs[row]!) || 0,
        bytes: sizeBytes[row]!,
        scaled: Number.isNaN(probability[row]!),
        lifetimeMs: endMs[row]! - bornMs[row]!,
        lost: lost[row] === 1,
        ...originWords(recording, originId[row]!, nearest),
      };
    }
  }
}

function textOf(recording: Recording, id: number): string {
  return id === NONE ? '' : recording.strings.text(id);
}

function originWords(
  recording: Recording,
  originId: number,
  nearest: Uint32Array,
): Pick<LedgerLine, 'what' | 'thread' | 'site' | 'own' | 'ownKey'> {
  const { typeId, threadId, pathId } = recording.tables.origins.col;
  return {
    what: textOf(recording, typeId[originId]!),
    thread: textOf(recording, threadId[originId]!),
    ...placeWords(recording, pathId[originId]!, nearest),
  };
}

function placeWords(
  recording: Recording,
  path: number,
  nearest: Uint32Array,
): Pick<LedgerLine, 'site' | 'own' | 'ownKey'> {
  if (path === NONE) return { site: '(unknown)', own: '', ownKey: null };
  const { frameId } = recording.tables.paths.col;
  const ownPath = nearest[path]!;
  const isOwn = isOwnFile(frameText(recording, frameId[ownPath]!).file, recording.ownRules);
  return {
    site: frameWord(recording, frameId[path]!),
    own: ownPath !== path && isOwn ? frameWord(recording, frameId[ownPath]!) : '',
    ownKey: keyText(recording, 'ownFrame', frameId[ownPath]!),
  };
}

function frameWord(recording: Recording, frameId: number): string {
  const { functionName, file, line } = frameText(recording, frameId);
  return file === '' ? functionName : `${functionName} ${fileName(file)}${line > 0 ? `:${line}` : ''}`;
}

function runWords(recording: Recording, originId: number): Pick<RunLine, 'type' | 'site'> {
  const { typeId, pathId } = recording.tables.origins.col;
  const path = pathId[originId]!;
  return {
    type: textOf(recording, typeId[originId]!),
    site: path === NONE ? '(unknown)' : frameWord(recording, recording.tables.paths.col.frameId[path]!),
  };
}

const RUNS = piece('runs', (subject: Subject, { gapMs, ...input }: FoundInput & { readonly gapMs: number }) =>
  alikeRuns(subject.recording, subject.spanOf(input), { gapMs, most: MOST_RUNS }, subject.chosen(input.find)),
);

const LEDGER = piece(
  'ledger',
  (subject: Subject, input: FoundInput) =>
    ledgerOf(subject.recording, subject.spanOf(input), {
      chosen: subject.chosen(input.find),
      kinds: findKinds(input.find),
    }),
  1,
);

const NEAREST = piece('nearest own paths', (subject: Subject, _: null) => nearestOwnPaths(subject.recording));

const AIM = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('place'), place: z.number().int().min(0) }),
  z.object({ kind: z.literal('time'), tMs: z.number() }),
  z.object({
    kind: z.literal('collection'),
    place: z.number().int().min(0),
    by: z.union([z.literal(1), z.literal(-1)]),
  }),
]);

/** Every event in order. */
export const ledger = measure({
  name: 'ledger',
  title: 'every event in order: births with their fates, collections, marks; and runs of alike allocations',
  ask: z.strictObject({
    ...LOOK_ASK,
    aim: AIM.default({ kind: 'place', place: 0 }).describe('where the lines begin'),
    count: z.number().int().min(1).max(100_000).default(100).describe('lines wanted'),
    gapMs: z.number().positive().default(100).describe('a gap that ends a run of alike allocations, in ms'),
    runs: z.boolean().default(true).describe('whether runs of alike allocations are told beside the lines'),
  }),
  answer: (side, ask): LedgerAnswer => ledgerAnswerOf(side.found(ask), { look: side.look(ask), ...ask }),
  table: {
    rows: (answer: LedgerAnswer) => answer.lines,
    columns: [
      { head: 'time', unit: 'ms', cell: (line: LedgerLine) => line.tMs },
      { head: 'what', cell: (line: LedgerLine) => line.what },
      { head: 'size', unit: 'bytes', cell: (line: LedgerLine) => line.bytes },
      { head: 'lived', unit: 'ms', cell: (line: LedgerLine) => line.lifetimeMs },
      { head: 'thread', cell: (line: LedgerLine) => line.thread },
      { head: 'site', cell: (line: LedgerLine) => line.site },
    ],
  },
});
