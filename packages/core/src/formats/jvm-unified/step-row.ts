import { type StepRow } from './detail-message.ts';
import type { JvmRun } from './jvm-run.ts';

/** Rows of the table that ZGC prints over the steps of a collection, of those that are read. */
export type StepName = 'Allocated' | 'Used' | 'Promoted' | 'Live';

/** A row with its name, and the letter that stands before it. */
export interface NamedStepRow {
  readonly name: StepName;
  readonly row: StepRow;
  readonly generation: string;
}

/**
 * Takes a row of the table over the steps of a ZGC collection; `generation` is the letter that stands before it, of a
 * heap in generations.
 */
export function takeStepRow(run: JvmRun, gcId: number, { name, row, generation }: NamedStepRow): void {
  // Of a heap in generations the rows of a minor collection and of the major one around it count the same bytes.
  const divided = generation === 'O' || generation === 'Y' || generation === 'y';
  switch (name) {
    case 'Allocated':
      // Between two steps relocation may take memory of its own out of the figure: the greatest was surely allocated.
      if (!divided) run.allocatedDuring(gcId, Math.max(row.markEnd || 0, row.relocateStart || 0, row.relocateEnd || 0));
      break;
    case 'Used':
      if (divided && !row.ofHeap)
        run.addSpace(gcId, {
          name: generation === 'O' ? 'Old generation' : 'Young generation',
          beforeBytes: row.markStart,
          afterBytes: row.relocateEnd,
        });
      break;
    case 'Live':
      // What marking reached, without what was allocated meanwhile: of a heap in generations it is told for each alone.
      if (!divided) run.addLive(gcId, row.markEnd);
      break;
    case 'Promoted':
      run.addPromoted(gcId, row.relocateEnd);
  }
}
