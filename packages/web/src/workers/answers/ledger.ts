import {
  alikeRuns,
  fileName,
  findKinds,
  frameText,
  isOwnFile,
  ledgerCollection,
  ledgerOf,
  ledgerPlace,
  LedgerKind,
  nearestOwnPaths,
  NONE,
  spanLengthMs,
  type AlikeRun,
  type Ledger,
  type LedgerKindCode,
  type Recording,
} from '@brisk-heron/core';
import type { Evidence, Look } from './evidence.ts';
import { scopeName } from './ribbon.ts';

/** Which lines are wanted: from a place, or where an instant or a collection leads to. */
export type LedgerAim =
  | { readonly kind: 'place'; readonly place: number }
  | { readonly kind: 'time'; readonly tMs: number }
  | { readonly kind: 'collection'; readonly place: number; readonly by: 1 | -1 };

export interface LedgerAsk {
  readonly look: Look;
  readonly aim: LedgerAim;
  readonly count: number;
  /** A gap that ends a run of alike allocations, in milliseconds. */
  readonly gapMs: number;
}

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
  readonly ownFrameId: number;
}

/** A run of alike allocations in words. */
export interface RunLine extends AlikeRun {
  readonly type: string;
  readonly site: string;
  readonly perSec: number;
}

export interface LedgerAnswer {
  readonly total: number;
  /** Place of the first line here. */
  readonly place: number;
  /** Place that the aim led to, which near the end is not the first line. */
  readonly aimed: number;
  readonly lines: readonly LedgerLine[];
  readonly runs: readonly RunLine[];
}

const MOST_RUNS = 40;

export function ledgerAnswerOf(evidence: Evidence, { look, aim, count, gapMs }: LedgerAsk): LedgerAnswer {
  const { recording } = evidence;
  const span = evidence.spanOf(look);
  const chosen = evidence.chosen(look.find);
  const ledger = ledgerFor(evidence, look);
  const runs = evidence.once('runs', `${evidence.keyOf(look)} ${gapMs}`, () =>
    alikeRuns(recording, span, { gapMs, most: MOST_RUNS }, chosen),
  );
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
    lines: ledgerLines(evidence, ledger, place, Math.min(total, place + count)),
    runs: runs.map((run) => ({
      ...run,
      ...runWords(recording, run.originId),
      perSec: run.count / Math.max(1e-3, spanLengthMs(run) / 1000),
    })),
  };
}

/** Every event that a look lets through, in order. */
export function ledgerFor(evidence: Evidence, look: Look): Ledger {
  return evidence.once(
    'ledger',
    evidence.keyOf(look),
    () =>
      ledgerOf(evidence.recording, evidence.spanOf(look), {
        chosen: evidence.chosen(look.find),
        kinds: findKinds(look.find),
      }),
    1,
  );
}

/** Lines from one place to before another. */
export function ledgerLines(evidence: Evidence, ledger: Ledger, from: number, to: number): LedgerLine[] {
  const nearest = evidence.once('nearest own paths', '', () => nearestOwnPaths(evidence.recording));
  return Array.from({ length: to - from }, (_, at) =>
    lineOf(
      evidence.recording,
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
    ownFrameId: NONE,
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
): Pick<LedgerLine, 'what' | 'thread' | 'site' | 'own' | 'ownFrameId'> {
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
): Pick<LedgerLine, 'site' | 'own' | 'ownFrameId'> {
  if (path === NONE) return { site: '(unknown)', own: '', ownFrameId: NONE };
  const { frameId } = recording.tables.paths.col;
  const ownPath = nearest[path]!;
  const isOwn = isOwnFile(frameText(recording, frameId[ownPath]!).file, recording.ownRules);
  return {
    site: frameWord(recording, frameId[path]!),
    own: ownPath !== path && isOwn ? frameWord(recording, frameId[ownPath]!) : '',
    ownFrameId: frameId[ownPath]!,
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
