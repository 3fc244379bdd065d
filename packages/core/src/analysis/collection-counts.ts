import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag, Scope } from '../model/tables.ts';
import { RangeCounts } from '../stats/range-counts.ts';
import { rememberReading } from './remember.ts';
import { collectionsByStart, placesTouched } from './row-orders.ts';

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

/** What each collection counts as. */
const CLASSES = ['underWay', 'own', 'degenerated', 'concurrentCycles', 'young', 'mixed', 'whole'] as const;
type Class = (typeof CLASSES)[number];

/** Collections in order of their starts, by class. */
const classCounts = rememberReading((recording: Recording): RangeCounts => {
  const { scope, flags } = recording.tables.collections.col;
  const { rows } = collectionsByStart(recording);
  const classOf = new Uint8Array(rows.length);
  for (let place = 0; place < rows.length; place++)
    classOf[place] = CLASSES.indexOf(classBy(flags[rows[place]!]!, scope[rows[place]!]!));
  return new RangeCounts(classOf, CLASSES.length);
});

function classBy(flags: number, scope: number): Class {
  if ((flags & UNDER_WAY) === UNDER_WAY) return 'underWay';
  if (flags & CollectionFlag.own) return 'own';
  if (flags & CollectionFlag.degenerated) return 'degenerated';
  if (flags & CollectionFlag.concurrentCycle) return 'concurrentCycles';
  return scope === Scope.young ? 'young' : scope === Scope.mixed ? 'mixed' : 'whole';
}

/** Collections that begin in the span or at either end of it, by scope. O(log n), once all are counted. */
export function countCollections(recording: Recording, span: Span): CollectionCounts {
  const counts = classCounts(recording).within(...placesTouched(collectionsByStart(recording), span));
  const of = (name: Class): number => counts[CLASSES.indexOf(name)]!;
  const [degenerated, concurrentCycles, young] = [of('degenerated'), of('concurrentCycles'), of('young')];
  const [mixed, whole] = [of('mixed'), of('whole')];
  const count = degenerated + concurrentCycles + young + mixed + whole;
  return { count, young, mixed, whole, concurrentCycles, degenerated, own: of('own') };
}
