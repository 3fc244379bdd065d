import { lastAtOrBefore } from '../../base/binary-search.ts';
import { NONE_SAMPLED, type SampledObjects } from '../../model/heap-graph.ts';
import { type AddressIndex, NOT_THERE } from './address-index.ts';
import type { DumpParts } from './dump-parts.ts';

/** How the `long[]` begins in which the recorder of a JVM leaves the ids of sampled objects: `BriskHrn`. */
export const SAMPLES_SIGN: readonly number[] = [0x42, 0x72, 0x69, 0x73, 0x6b, 0x48, 0x72, 0x6e];
const LONG_BYTES = 8;
const HEAD_WORDS = 2;

/**
 * Which objects of a dump were sampled. The recorder ties them in just before: an `Object[]` of two, of which one is an
 * `Object[]` of the sampled objects and the other a `long[]`: the sign above, one in how many they
 * are, and then the id of each; what was made ahead has room for more. `own` are the rows
 * of these three, which are not the program's.
 */
export function sampledObjects(
  parts: DumpParts,
  address: Float64Array,
  index: AddressIndex,
): { readonly sampled: SampledObjects; readonly own: readonly number[] } {
  const nothing = { sampled: NONE_SAMPLED, own: [] };
  const { sampleIds } = parts;
  if (sampleIds === null) return nothing;
  const [target, firstEdge] = [parts.target.values(), parts.firstEdge.values()];
  const endOf = (row: number): number => firstEdge[row + 1] ?? target.length;
  const edge = target.indexOf(address[sampleIds.row]!);
  if (edge < 0) return nothing;
  const knot = lastAtOrBefore(firstEdge, edge);
  if (endOf(knot) - firstEdge[knot]! !== 2) return nothing;
  const list = index.at(target[firstEdge[knot]!]!);
  if (list === NOT_THERE) return nothing;
  const count = endOf(list) - firstEdge[list]!;
  if (count < 0 || count > sampleIds.bytes.length / LONG_BYTES - HEAD_WORDS) return nothing;
  const view = new DataView(sampleIds.bytes.buffer, sampleIds.bytes.byteOffset);
  const known = Array.from({ length: count }, (_, at) => ({
    object: index.at(target[firstEdge[list]! + at]!),
    sourceId: Number(view.getBigInt64((at + HEAD_WORDS) * LONG_BYTES)),
  }))
    .filter(({ object, sourceId }) => object !== NOT_THERE && sourceId >= 0)
    .sort((a, b) => a.object - b.object);
  return {
    sampled: {
      object: Uint32Array.from(known, ({ object }) => object),
      sourceId: Float64Array.from(known, ({ sourceId }) => sourceId),
      oneIn: Math.max(1, Number(view.getBigInt64(LONG_BYTES))),
    },
    own: [knot, list, sampleIds.row],
  };
}
