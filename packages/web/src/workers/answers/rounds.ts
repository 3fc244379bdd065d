import { repeatedMarks, roundTable, type Charge, type Recording, type RoundFigures, type Span } from '@brisk-heron/core';
import { siteWords, type SiteRow } from './sites.ts';

/** A key's rounds with its words. */
export interface RoundRow extends RoundFigures, Pick<SiteRow, 'functionName' | 'place' | 'shortPlace' | 'isOwn' | 'type'> {}

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
export function roundsOf(recording: Recording, span: Span, charge: Charge, wanted: string | null): RoundsAnswer | null {
  const labels = repeatedMarks(recording, span);
  const label = labels.find((each) => each.label === wanted)?.label ?? labels[0]?.label;
  const table = label === undefined ? null : roundTable(recording, span, label, charge);
  if (table === null) return null;
  return {
    labels, label: table.label, marksMs: table.marksMs, collected: table.collected,
    rows: table.keys.slice(0, MOST_ROWS).map((key) => ({ ...key, ...siteWords(recording, key) })),
  };
}
