import { type Dominators, NOBODY } from './dominators.ts';
import { leastHeldBytes } from './held-set.ts';
import type { HeldSet, Holding, ObjectSets } from './holding.ts';
import { type SampledBirths, weightsOf } from './sampled-births.ts';

/** A chain of holders longer than this has members of the same kind in it. */
const MOST_CHAIN = 1000;

/** Objects, own and held bytes: of all of a type, or as far as samples stand for them. */
interface Amounts {
  objects: number;
  own: number;
  /** What objects hold one by one, those below another of the same type left out. */
  held: number;
}

/** What is known of the objects of one type, by an inventory all of them, and by samples where they were born. */
interface TypeStratum {
  readonly all: Amounts;
  readonly sampled: Amounts;
  /** Samples, and how many of equal weight would tell as much (Kish 1965). */
  readonly samples: number;
  readonly effective: number;
}

/** Where sampled objects were born, and what of every type there is. */
export interface SampledStrata {
  readonly births: SampledBirths;
  /** How many objects each sampled one stands for. */
  readonly weights: Float64Array;
  /** By type; undefined where no object of it was sampled. */
  readonly types: readonly (TypeStratum | undefined)[];
  /** Bytes of types of which no object was sampled. */
  readonly unsampledBytes: number;
}

/** Counts each type over the objects of a domain, 1 for each, and the samples in it. */
export function sampledStrata(holding: Holding, births: SampledBirths, domain: Uint8Array): SampledStrata {
  const { graph, dominators } = holding;
  const typeOf = Uint32Array.from(graph.typeId, (type, object) => (domain[object] === 1 ? type : NOBODY));
  const held = leastHeldBytes(dominators, typeOf, graph.types.length);
  const all = graph.types.map((_, type): Amounts => ({ objects: 0, own: 0, held: held[type]! }));
  for (let object = 0; object < graph.objects; object++) {
    if (typeOf[object] === NOBODY) continue;
    all[typeOf[object]!]!.objects++;
    all[typeOf[object]!]!.own += graph.ownBytes[object]!;
  }
  const weights = weightsOf(births);
  const sums = new Map<number, Amounts & { samples: number; squares: number }>();
  births.object.forEach((object, at) => {
    const type = typeOf[object]!;
    if (type === NOBODY) return;
    let sum = sums.get(type);
    if (sum === undefined) sums.set(type, (sum = { objects: 0, own: 0, held: 0, samples: 0, squares: 0 }));
    sum.samples++;
    sum.squares += weights[at]! ** 2;
    addTo(sum, holding, object, weights[at]!, (above) => typeOf[above] === type);
  });
  const types = all.map((amounts, type): TypeStratum | undefined => {
    const sum = sums.get(type);
    if (sum === undefined) return undefined;
    return { all: amounts, sampled: sum, samples: sum.samples, effective: sum.objects ** 2 / sum.squares };
  });
  const unsampledBytes = all.reduce((bytes, { own }, type) => bytes + (types[type] === undefined ? own : 0), 0);
  return { births, weights, types, unsampledBytes };
}

function addTo(
  sum: Amounts,
  { graph, dominators }: Holding,
  object: number,
  weight: number,
  isIt: (above: number) => boolean,
): void {
  sum.objects += weight;
  sum.own += weight * graph.ownBytes[object]!;
  const rank = dominators.rankOf[object]!;
  if (!isBelow(dominators, rank, isIt)) sum.held += weight * dominators.heldBytes[rank]!;
}

function isBelow({ holder, objectAt }: Dominators, rank: number, isIt: (object: number) => boolean): boolean {
  let steps = 0;
  for (let above = holder[rank]!; above !== 0; above = holder[above]!)
    if (isIt(objectAt[above]!) || ++steps > MOST_CHAIN) return true;
  return false;
}

/**
 * What sets hold of which only samples are known, the heaviest first; `count` is how many there are. Of each type the
 * inventory tells how much there is; samples tell which share of it belongs to a set (post-stratification, Holt & Smith
 * 1979). Errors are those of these shares, by Agresti and Coull's rule, so that one which all samples agree on has an
 * error too. Held bytes are of what the objects hold one by one, below no other of a type of the set: from below.
 */
export function sampledSets(
  holding: Holding,
  { setOf, keys, sampled }: ObjectSets,
  most: number,
): { readonly sets: HeldSet[]; readonly count: number } {
  const { births, weights, types } = sampled!;
  const { graph, dominators } = holding;
  const sums = keys.map(() => new Map<number, Amounts & { samples: number }>());
  births.object.forEach((object) => {
    const set = setOf[object]!;
    if (set !== NOBODY && !sums[set]!.has(graph.typeId[object]!))
      sums[set]!.set(graph.typeId[object]!, { objects: 0, own: 0, held: 0, samples: 0 });
  });
  births.object.forEach((object, at) => {
    const set = setOf[object]!;
    if (set === NOBODY) return;
    const ofSet = sums[set]!;
    const sum = ofSet.get(graph.typeId[object]!)!;
    sum.samples++;
    addTo(sum, holding, object, weights[at]!, (above) => ofSet.has(graph.typeId[above]!));
  });
  const sets = sums
    .flatMap((ofSet, set) => (ofSet.size === 0 ? [] : [{ set, key: keys[set]!, ...estimated(ofSet, types) }]))
    .map((each): HeldSet => {
      const heldBytes = Math.min(dominators.heldBytes[0]!, Math.max(each.ownBytes, each.heldBytes));
      return { ...each, heldBytes, isOwn: true, heldIsExact: false };
    })
    .sort((a, b) => b.heldBytes - a.heldBytes || b.ownBytes - a.ownBytes);
  return { sets: sets.slice(0, most), count: sets.length };
}

type Estimated = Pick<HeldSet, 'objects' | 'ownBytes' | 'heldBytes' | 'sampled'>;

function estimated(
  ofSet: ReadonlyMap<number, Amounts & { readonly samples: number }>,
  types: SampledStrata['types'],
): Estimated {
  const sum = { objects: 0, own: 0, held: 0 };
  const variance = { objects: 0, own: 0, held: 0 };
  let samples = 0;
  for (const [type, amounts] of ofSet) {
    const { all, sampled, effective } = types[type]!;
    samples += amounts.samples;
    for (const what of ['objects', 'own', 'held'] as const) {
      const ratio = sampled[what] > 0 ? amounts[what] / sampled[what] : 0;
      sum[what] += ratio * all[what];
      variance[what] += all[what] ** 2 * shareVariance(ratio, effective);
    }
  }
  return {
    objects: Math.round(sum.objects),
    ownBytes: sum.own,
    heldBytes: sum.held,
    sampled: {
      samples,
      objectsSe: Math.sqrt(variance.objects),
      ownSe: Math.sqrt(variance.own),
      heldSe: Math.sqrt(sum.held >= sum.own ? variance.held : variance.own),
    },
  };
}

// Agresti & Coull (1998): two successes and two failures more.
function shareVariance(ratio: number, samples: number): number {
  const adjusted = (ratio * samples + 2) / (samples + 4);
  return (adjusted * (1 - adjusted)) / (samples + 4);
}

/** Weights of the sampled objects by object, 1 for others. */
export function weightReader(sampled: SampledStrata | null): (object: number) => number {
  if (sampled === null) return () => 1;
  const at = new Map<number, number>();
  sampled.births.object.forEach((object, place) => at.set(object, sampled.weights[place]!));
  return (object) => at.get(object) ?? 1;
}
