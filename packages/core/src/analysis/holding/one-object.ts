import { type FieldValue, valuesOf } from '../../model/heap-values.ts';
import { type HeldObject, objectTeller, siteReader } from './around.ts';
import type { Holding } from './holding.ts';
import type { SampledBirths } from './sampled-births.ts';
import { referenceWords } from './ways.ts';

/** A reference of one object, and what is at its other end. */
export interface ObjectReference {
  /** `Type.field` of who refers. */
  readonly words: string;
  readonly other: HeldObject;
}

/** One object with its fields, and those that refer to it. */
export interface OneObject {
  readonly self: HeldObject;
  readonly fields: readonly ObjectReference[];
  /** How many there are. */
  readonly fieldCount: number;
  /** What stands in its other fields; null where that is not kept. */
  readonly values: readonly FieldValue[] | null;
  readonly referredBy: readonly ObjectReference[];
  readonly referrerCount: number;
}

/** Tells one object by its row, of each list the first `most`. One pass over the references. */
export function oneObject(holding: Holding, births: SampledBirths, object: number, most: number): OneObject {
  const { graph, dominators } = holding;
  const tell = objectTeller(holding, siteReader(births));
  const words = (from: number, edge: number): string => {
    const whose = graph.ownName.get(from) ?? graph.types[graph.typeId[from]!]!;
    return referenceWords(graph, whose, graph.edgeName[edge]!);
  };
  const [first, end] = [graph.firstEdge[object]!, graph.firstEdge[object + 1]!];
  const fields = Array.from({ length: Math.min(most, end - first) }, (_, at) => ({
    words: words(object, first + at),
    other: tell(graph.edgeTo[first + at]!),
  }));
  const referredBy: ObjectReference[] = [];
  let referrerCount = 0;
  for (let from = 0; from < graph.objects; from++) {
    if (dominators.rankOf[from] === 0) continue;
    for (let edge = graph.firstEdge[from]!; edge < graph.firstEdge[from + 1]!; edge++) {
      if (graph.edgeTo[edge] !== object) continue;
      if (referredBy.length < most) referredBy.push({ words: words(from, edge), other: tell(from) });
      referrerCount++;
    }
  }
  const values = valuesOf(graph.values, object);
  return { self: tell(object), fields, fieldCount: end - first, values, referredBy, referrerCount };
}
