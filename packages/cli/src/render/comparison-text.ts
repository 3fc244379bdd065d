import {
  type ComparedKey,
  type ComparisonAnswer,
  figureText,
  type FigureChange,
  formatBytes,
  type Table,
} from '@brisk-heron/core';
import { renderTable } from './table.ts';

const MOST_KEYS = 15;
/** Amounts are told a second on a terminal; what is no amount, in all. */
const SHOWN_PER: ReadonlySet<FigureChange['per']> = new Set<FigureChange['per']>(['all', 'second']);

/** A comparison for a terminal: the sentence, both verdicts, figures and the keys that differ most. */
export function comparisonText(answer: ComparisonAnswer): string {
  const amounts = new Set(answer.figures.filter(({ per }) => per === 'second').map(({ name }) => name));
  const figures = answer.figures.filter(
    ({ name, per }) => SHOWN_PER.has(per) && (per === 'second' || !amounts.has(name)),
  );
  const keys = answer.keys.slice(0, MOST_KEYS);
  return [
    `${answer.sentence}\n\n`,
    `A  ${answer.a.name}: ${answer.a.sentence}\n`,
    `B  ${answer.b.name}: ${answer.b.sentence}\n\n`,
    ...answer.notes.map((note) => `${note}\n`),
    answer.notes.length === 0 ? '' : '\n',
    renderTable(FIGURES as Table<unknown, unknown>, figures),
    keys.length === 0 ? '' : `\n${renderTable(KEYS as Table<unknown, unknown>, keys)}`,
  ].join('');
}

const clearText = (clear: boolean): string => (clear ? 'clear' : '–');

const FIGURES = {
  rows: (figures: readonly FigureChange[]) => figures,
  columns: [
    { head: 'figure', cell: ({ name, per }: FigureChange) => (per === 'second' ? `${name} a second` : name) },
    { head: 'A', cell: ({ unit, a }: FigureChange) => figureText(unit, a.value) },
    { head: 'B', cell: ({ unit, b }: FigureChange) => figureText(unit, b.value) },
    { head: 'difference', cell: ({ unit, difference }: FigureChange) => figureText(unit, difference) },
    { head: '', cell: ({ clear }: FigureChange) => clearText(clear) },
  ],
};

const rate = (perSec: number): string => (Number.isNaN(perSec) ? '–' : formatBytes(perSec * 60));

const KEYS = {
  rows: (keys: readonly ComparedKey[]) => keys,
  columns: [
    { head: 'key', cell: ({ name, place }: ComparedKey) => `${name} ${place}`.trim() },
    { head: 'state', cell: ({ state }: ComparedKey) => (state === 'both' ? '' : state) },
    { head: 'A adds/min', cell: ({ growth }: ComparedKey) => rate(growth[0].value) },
    { head: 'B adds/min', cell: ({ growth }: ComparedKey) => rate(growth[1].value) },
    { head: 'A kept', cell: ({ kept }: ComparedKey) => formatBytes(kept[0].value) },
    { head: 'B kept', cell: ({ kept }: ComparedKey) => formatBytes(kept[1].value) },
    { head: '', cell: ({ clear }: ComparedKey) => clearText(clear) },
  ],
};
