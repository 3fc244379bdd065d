import { z } from 'zod';
import type { Reason } from '../analysis/holding/reasons/reason.ts';
import { reasonsOf } from '../analysis/holding/reasons/reasons.ts';
import { piece } from '../study/piece.ts';
import type { Subject } from '../study/subject.ts';
import { HOLDING, inventoryAt } from './inventory-pieces.ts';
import { measure } from './measure.ts';

/** Usual reasons why much stays, and what cannot be found so. */
export interface ReasonsAnswer {
  readonly reasons: readonly Reason[];
  readonly notes: readonly string[];
  /** Why there is nothing to tell; '' where there is. */
  readonly missing: string;
}

const NO_KEYS =
  'Whether the keys of a map are alike is told of a heap dump that could be read whole: an inventory in a recording has no values to compare.';
const NO_SCOPES =
  'Which of the variables of a scope a function still needs is not told by an inventory, nor whether the keys of a map that are objects are alike.';

const REASONS = piece(
  'reasons',
  (subject: Subject, at: number) => {
    const { source, defects } = subject.recording.inventories[at]!;
    return reasonsOf(subject.get(HOLDING, at), source, defects.length === 0);
  },
  2,
);

/** What is usual among the reasons why much stays, looked for in an inventory. */
export const reasons = measure({
  name: 'reasons',
  title: 'usual reasons why much stays, found in an inventory: listeners, timers, copies, empty collections and more',
  ask: z.strictObject({
    at: z.number().int().min(0).nullable().default(null).describe('which inventory, from 0; null for the last'),
  }),
  answer: ({ subject }, ask): ReasonsAnswer => {
    const { inventory, at, missing } = inventoryAt(subject, ask.at);
    if (inventory === null) return { reasons: [], notes: [], missing };
    const hasValues = inventory.graph.values.objects.length > 0 && inventory.defects.length === 0;
    const notes = inventory.source === 'v8' ? [NO_SCOPES] : hasValues ? [] : [NO_KEYS];
    return { reasons: subject.get(REASONS, at), notes, missing: '' };
  },
  table: {
    rows: (answer: ReasonsAnswer) => answer.reasons,
    columns: [
      { head: 'reason', cell: (row: Reason) => row.sentence },
      { head: 'holds', cell: (row: Reason) => row.heldBytes, unit: 'bytes' },
      { head: 'what to try', cell: (row: Reason) => row.advice },
      { head: 'objects by', cell: (row: Reason) => row.find },
    ],
  },
});
