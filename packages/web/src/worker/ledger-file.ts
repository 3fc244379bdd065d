import {
  csvLine,
  ledgerFor,
  LedgerKind,
  type LedgerKindCode,
  type LedgerLine,
  ledgerLines,
  type Look,
  type Subject,
  Z_95,
} from '@brisk-heron/core';
import type { Progress } from './progress.ts';

/** Lines that are put into words between two chances for other questions. */
const PIECE_LINES = 10_000;
const NAMES = [
  'time ms',
  'off by ms',
  'event',
  'what',
  'bytes',
  'bytes ±',
  'of a sample',
  'lived or took ms',
  'fate',
  'thread',
  'made at',
  'own frame',
];
const EVENTS: Readonly<Record<LedgerKindCode, string>> = {
  [LedgerKind.birth]: 'birth',
  [LedgerKind.collection]: 'collection',
  [LedgerKind.mark]: 'mark',
  [LedgerKind.flow]: 'flow',
};

/**
 * The ledger of a look as a CSV file; null when it was stopped. Memory: the text of one piece, and a blob that the
 * browser may keep on the disk.
 */
export async function ledgerFile(
  subject: Subject,
  look: Look,
  onProgress: (progress: Progress) => void,
  isStopped: () => boolean,
): Promise<Blob | null> {
  const ledger = ledgerFor(subject, look);
  const total = ledger.row.length;
  const pieces: Blob[] = [new Blob([csvLine(NAMES)])];
  for (let from = 0; from < total; from += PIECE_LINES) {
    const rows = ledgerLines(subject, ledger, from, Math.min(total, from + PIECE_LINES)).map((line) =>
      csvLine(cellsOf(line)),
    );
    pieces.push(new Blob(rows));
    onProgress({
      doing: 'Writing the ledger',
      doneRatio: Math.min(1, (from + PIECE_LINES) / total),
      doneBytes: pieces.reduce((sum, { size }) => sum + size, 0),
      totalBytes: NaN,
    });
    await new Promise((turn) => setTimeout(turn));
    if (isStopped()) return null;
  }
  return new Blob(pieces, { type: 'text/csv' });
}

function cellsOf(line: LedgerLine): (number | string)[] {
  return [
    line.tMs,
    line.offMs,
    EVENTS[line.kind],
    line.what,
    line.bytes,
    Z_95 * line.bytesSe,
    line.scaled ? 'yes' : '',
    line.lifetimeMs,
    fateOf(line),
    line.thread,
    line.site,
    line.own,
  ];
}

function fateOf({ kind, lifetimeMs, lost }: LedgerLine): string {
  if (kind !== LedgerKind.birth) return '';
  return Number.isNaN(lifetimeMs) ? 'lives' : lost ? 'lost from sight' : 'died';
}
