import { NOBODY } from './dominators.ts';
import { heldSet, heldSets, type Holding, type ObjectSets } from './holding.ts';
import { sampledSets } from './sampled-sets.ts';

/** What of a key is in one inventory. */
export interface KeyAmounts {
  readonly objects: number;
  readonly ownBytes: number;
  readonly heldBytes: number;
  readonly heldIsExact: boolean;
}

/** A key in two inventories; zero where it is not in one. */
export interface ChangedKey {
  readonly key: string;
  readonly isOwn: boolean;
  readonly a: KeyAmounts;
  readonly b: KeyAmounts;
  /** Objects by their numbers: in B alone, in A alone, in both; NaN where numbers do not tell. */
  readonly came: number;
  readonly went: number;
  readonly stayed: number;
}

/** One of the two that are compared. */
export interface ComparedInventory {
  readonly holding: Holding;
  readonly sets: ObjectSets;
}

const NONE_OF_IT: KeyAmounts = { objects: 0, ownBytes: 0, heldBytes: 0, heldIsExact: true };
/** Objects keep their numbers where of those in both so many are of the same type. */
const SAME_TYPES = 0.98;
/** Keys whose held bytes are worked out exactly on both sides. */
const MOST_EXACT = 6;

/**
 * What came, what went, and whose held bytes grew between two inventories, the largest change first; `count` is how
 * many keys there are. `byNumber` says whether objects could be followed one by one.
 */
export function inventoryChanges(
  a: ComparedInventory,
  b: ComparedInventory,
  most: number,
): { readonly rows: ChangedKey[]; readonly count: number; readonly byNumber: boolean } {
  const [inA, inB] = [amountsOf(a), amountsOf(b)];
  const followed = sameNumbers(a, b);
  const rows = [...new Set([...inA.keys(), ...inB.keys()])]
    .map((key): ChangedKey => {
      const [of, ofB] = [inA.get(key) ?? NONE_OF_IT, inB.get(key) ?? NONE_OF_IT];
      const counts = followed?.get(key) ?? { came: NaN, went: NaN, stayed: NaN };
      return { key, isOwn: isOwnIn(a, key) || isOwnIn(b, key), a: of, b: ofB, ...counts };
    })
    .sort(byChange);
  const exact = rows
    .slice(0, MOST_EXACT)
    .map((row) => ({ ...row, a: exactly(a, row.key, row.a), b: exactly(b, row.key, row.b) }));
  return {
    rows: [...exact, ...rows.slice(MOST_EXACT, most)].slice(0, most).sort(byChange),
    count: rows.length,
    byNumber: followed !== null,
  };
}

const change = ({ a, b }: ChangedKey): number => b.heldBytes - a.heldBytes;
const byChange = (one: ChangedKey, other: ChangedKey): number =>
  Math.abs(change(other)) - Math.abs(change(one)) || other.b.ownBytes - one.b.ownBytes;

const isOwnIn = ({ sets }: ComparedInventory, key: string): boolean => sets.isOwn[sets.keys.indexOf(key)] === 1;

function amountsOf({ holding, sets }: ComparedInventory): Map<string, KeyAmounts> {
  const { sets: all } =
    sets.sampled === null ? heldSets(holding, sets, Infinity, 0) : sampledSets(holding, sets, Infinity);
  return new Map(
    all.map(({ key, objects, ownBytes, heldBytes, heldIsExact }) => [
      key,
      { objects, ownBytes, heldBytes, heldIsExact },
    ]),
  );
}

function exactly({ holding, sets }: ComparedInventory, key: string, known: KeyAmounts): KeyAmounts {
  if (sets.sampled !== null || known.objects === 0) return known;
  const one = heldSet(holding, sets, sets.keys.indexOf(key));
  return one === null ? known : { ...known, heldBytes: one.told.heldBytes, heldIsExact: true };
}

interface Counts {
  came: number;
  went: number;
  stayed: number;
}

// V8 gives an object a number for good; addresses change as a collector moves objects, and then types do not agree.
function sameNumbers(a: ComparedInventory, b: ComparedInventory): Map<string, Counts> | null {
  if (a.sets.sampled !== null || b.sets.sampled !== null) return null;
  const [graphA, graphB] = [a.holding.graph, b.holding.graph];
  const inA = new Map<number, number>();
  for (let object = 0; object < graphA.objects; object++)
    if (a.holding.dominators.rankOf[object] !== 0) inA.set(graphA.id[object]!, object);
  const counts = new Map<string, Counts>();
  const count = (key: string, what: keyof Counts): void => {
    let sum = counts.get(key);
    if (sum === undefined) counts.set(key, (sum = { came: 0, went: 0, stayed: 0 }));
    sum[what]++;
  };
  const keyOf = ({ sets }: ComparedInventory, object: number): string | undefined =>
    sets.setOf[object] === NOBODY ? undefined : sets.keys[sets.setOf[object]!];
  let [both, alike] = [0, 0];
  for (let object = 0; object < graphB.objects; object++) {
    if (b.holding.dominators.rankOf[object] === 0) continue;
    const before = inA.get(graphB.id[object]!);
    const key = keyOf(b, object);
    if (before === undefined) {
      if (key !== undefined) count(key, 'came');
      continue;
    }
    both++;
    inA.delete(graphB.id[object]!);
    if (graphA.types[graphA.typeId[before]!] === graphB.types[graphB.typeId[object]!]) alike++;
    if (key !== undefined) count(key, 'stayed');
  }
  if (both === 0 || alike < SAME_TYPES * both) return null;
  for (const object of inA.values()) {
    const key = keyOf(a, object);
    if (key !== undefined) count(key, 'went');
  }
  return counts;
}
