import { heldSet, type Holding, holdingOf, type ObjectSets } from '../analysis/holding/holding.ts';
import { type HeldBy, objectSets } from '../analysis/holding/object-sets.ts';
import { type SampledBirths, sampledBirths } from '../analysis/holding/sampled-births.ts';
import type { HeapGraph, Inventory } from '../model/heap-graph.ts';
import { readHoldingFind } from '../query/find-holding.ts';
import { piece } from '../study/piece.ts';
import type { Subject } from '../study/subject.ts';

/** Who holds whom in an inventory never changes, though its recording grows. */
const workedOut = new WeakMap<HeapGraph, Holding>();

/** Who holds whom in the inventory of a number; two are kept, since two are compared. */
export const HOLDING = piece(
  'holding',
  (subject: Subject, at: number): Holding => {
    const { graph } = subject.recording.inventories[at]!;
    const known = workedOut.get(graph) ?? holdingOf(graph);
    workedOut.set(graph, known);
    return known;
  },
  2,
);

/** Births of the sampled objects of the inventory of a number. */
export const BIRTHS = piece(
  'births of an inventory',
  ({ recording }: Subject, at: number): SampledBirths => sampledBirths(recording, recording.inventories[at]!),
  2,
);

/** Objects of an inventory told together. */
export const SETS = piece(
  'held sets',
  (
    subject: Subject,
    { at, charge, find }: { readonly at: number; readonly charge: HeldBy; readonly find: string },
  ): ObjectSets => objectSets(subject.get(HOLDING, at), charge, readHoldingFind(find).terms, subject.get(BIRTHS, at)),
  2,
);

/** One key of an inventory, exactly, and what can be reached without it; null where there is none. */
export const ONE = piece(
  'held set',
  (
    subject: Subject,
    { key, ...input }: { readonly at: number; readonly charge: HeldBy; readonly find: string; readonly key: string },
  ) => {
    const sets = subject.get(SETS, input);
    return heldSet(subject.get(HOLDING, input.at), sets, sets.keys.indexOf(key));
  },
  1,
);

const MISSING = 'no inventory was taken: drop a heap dump of a JVM (.hprof) or a heap snapshot of V8 (.heapsnapshot)';

/** The inventory of a number, the last for null; null with a reason where there is none. */
export function inventoryAt(
  { recording: { inventories, chosenHeaps } }: Subject,
  asked: number | null,
): { readonly inventory: Inventory | null; readonly at: number; readonly missing: string } {
  const of = chosenHeaps === null ? inventories : inventories.filter(({ heapId }) => chosenHeaps.includes(heapId));
  const at = asked ?? inventories.indexOf(of.at(-1)!);
  const inventory = inventories[at] ?? null;
  if (inventory !== null) return { inventory, at, missing: '' };
  if (inventories.length === 0) return { inventory, at: -1, missing: MISSING };
  const missing =
    asked === null
      ? 'no inventory was taken of the heaps that are looked at'
      : `expected an inventory from 0 to ${inventories.length - 1}, found ${asked}`;
  return { inventory, at: -1, missing };
}
