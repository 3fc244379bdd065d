import { chargeGroups, sizeHistogram, type KeySizes } from '@brisk-heron/core';
import type { Evidence, Look } from './evidence.ts';
import { keyWords, type KeyWords } from './key-words.ts';

/** How big the objects of each key are. */
export interface SizesAnswer {
  readonly rows: readonly (KeySizes & KeyWords & KeyFates)[];
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

export function sizesOf(evidence: Evidence, look: Look): SizesAnswer {
  const { recording } = evidence;
  const sizes = evidence.once('sizes', `${evidence.keyOf(look)} ${look.charge}`, () =>
    sizeHistogram(recording, evidence.spanOf(look), chargeGroups(recording, look.charge), evidence.chosen(look.find)),
  );
  const figures = new Map(evidence.table(look).rows.map((row) => [row.key, row]));
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
