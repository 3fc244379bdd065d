import { z } from 'zod';
import { type KeySizes, sizeHistogram } from '../analysis/size-histogram.ts';
import { type Charge, chargeGroups } from '../model/charge.ts';
import { piece } from '../study/piece.ts';
import { foundInput, type FoundInput, type Look, type Subject } from '../study/subject.ts';
import { KEY_COLUMNS, keyWords, type KeyWords } from './key-words.ts';
import { LOOK_ASK, measure } from './measure.ts';

/** How big the objects of each key are. */
export interface SizesAnswer {
  readonly rows: readonly (Omit<KeySizes, 'key'> & KeyWords & KeyFates)[];
  readonly keyCount: number;
}

/** What became of a key's bytes by the span's end. */
export interface KeyFates {
  readonly allocBytes: number;
  readonly keptOfSpanBytes: number;
  readonly diedBytes: number;
}

const MOST_ROWS = 200;
const NOTHING: KeyFates = { allocBytes: 0, keptOfSpanBytes: 0, diedBytes: 0 };

/** Answers `sizes` of a subject that the look was found in. */
export function sizesOf(subject: Subject, look: Look): SizesAnswer {
  const { recording } = subject;
  const sizes = subject.get(SIZES, { ...foundInput(look), charge: look.charge });
  const figures = new Map(subject.table(look).rows.map((row) => [row.key, row]));
  const fatesOf = (key: number): KeyFates => {
    const { allocBytes, keptOfSpanBytes, diedBytes } = figures.get(key) ?? NOTHING;
    return { allocBytes, keptOfSpanBytes, diedBytes };
  };
  return {
    keyCount: sizes.length,
    rows: sizes
      .slice(0, MOST_ROWS)
      .map((each) => ({ ...each, ...fatesOf(each.key), ...keyWords(recording, look.charge, each.key) })),
  };
}

const SIZES = piece('sizes', (subject: Subject, input: FoundInput & { readonly charge: Charge }) => {
  const groups = chargeGroups(subject.recording, input.charge);
  return sizeHistogram(subject.recording, subject.spanOf(input), groups, subject.chosen(input.find));
});

/** How big the objects of each key are. */
export const sizes = measure({
  name: 'sizes',
  title: 'how big the objects of each key are',
  needs: 'objects',
  ask: z.strictObject(LOOK_ASK),
  answer: (side, ask): SizesAnswer => sizesOf(side.found(ask), side.look(ask)),
  table: {
    rows: (answer: SizesAnswer) => answer.rows,
    columns: [
      ...KEY_COLUMNS,
      { head: 'allocated', unit: 'bytes', cell: (row: SizesAnswer['rows'][number]) => row.allocBytes },
      { head: 'kept', unit: 'bytes', cell: (row: SizesAnswer['rows'][number]) => row.keptOfSpanBytes },
      { head: 'died', unit: 'bytes', cell: (row: SizesAnswer['rows'][number]) => row.diedBytes },
    ],
  },
});
