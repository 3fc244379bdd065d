import { repeatedMarks, roundTable, type RoundFigures } from '@brisk-heron/core';
import type { Evidence, Look } from './evidence.ts';
import { keyWords, typeWord, type KeyWords } from './key-words.ts';

/** A key's rounds with its words. */
export interface RoundRow extends RoundFigures, KeyWords {
  readonly type: string | null;
}

/** What the rounds of a mark that repeats leave. */
export interface RoundsAnswer {
  readonly labels: readonly { readonly label: string; readonly times: number }[];
  readonly label: string;
  readonly marksMs: Float64Array;
  readonly collected: number;
  readonly rows: readonly RoundRow[];
}

const MOST_ROWS = 60;

/** Rounds of the label, else of the mark that repeats most; null when no mark repeats where objects were followed. */
export function roundsOf(evidence: Evidence, look: Look, wanted: string | null): RoundsAnswer | null {
  const { recording } = evidence;
  const span = evidence.spanOf(look);
  const labels = repeatedMarks(recording, span);
  const label = labels.find((each) => each.label === wanted)?.label ?? labels[0]?.label;
  const table =
    label === undefined ? null : roundTable(recording, span, label, look.charge, evidence.chosen(look.find));
  if (table === null) return null;
  return {
    labels,
    label: table.label,
    marksMs: table.marksMs,
    collected: table.collected,
    rows: table.keys
      .slice(0, MOST_ROWS)
      .map((key) => ({ ...key, ...keyWords(recording, look.charge, key.key), type: typeWord(recording, key.typeId) })),
  };
}
