import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag, Scope } from '../model/tables.ts';
import { collectionsFrom } from './row-orders.ts';

/** How many collections of each scope there were; those of the recorder apart. */
export interface CollectionCounts {
  /** The program's collections, concurrent cycles included, the recorder's own left out. */
  readonly count: number;
  readonly young: number;
  readonly mixed: number;
  /** Whole-heap collections that stopped the program; concurrent cycles are counted apart. */
  readonly whole: number;
  readonly concurrentCycles: number;
  /** Concurrent collections that had to stop the program to get done; in no other count but the whole one. */
  readonly degenerated: number;
  /** Forced by the recorder. */
  readonly own: number;
}

const UNDER_WAY = CollectionFlag.endPrinted | CollectionFlag.unfinished;

/** Collections that begin in the span, by scope. Linear in those. */
export function countCollections(recording: Recording, span: Span): CollectionCounts {
  const { collections } = recording.tables;
  const { scope, flags } = collections.col;
  const counts = { count: 0, young: 0, mixed: 0, whole: 0, concurrentCycles: 0, degenerated: 0, own: 0 };
  const begun = collectionsFrom(recording, span);
  for (let place = 0; place < begun.length; place++) {
    const row = begun[place]!;
    if ((flags[row]! & UNDER_WAY) === UNDER_WAY) continue;
    if (flags[row]! & CollectionFlag.own) {
      counts.own++;
      continue;
    }
    counts.count++;
    if (flags[row]! & CollectionFlag.degenerated) counts.degenerated++;
    else if (flags[row]! & CollectionFlag.concurrentCycle) counts.concurrentCycles++;
    else if (scope[row] === Scope.young) counts.young++;
    else if (scope[row] === Scope.mixed) counts.mixed++;
    else counts.whole++;
  }
  return counts;
}
