import { type Charge, chargeGroups, chargeText } from '../../model/charge.ts';
import type { Inventory } from '../../model/heap-graph.ts';
import type { Recording } from '../../model/recording.ts';
import { formatDuration } from '../../base/units.ts';

/** Stretches of the recording by which births are told apart. */
const BANDS = 8;

/** Objects of an inventory whose births were recorded. */
export interface SampledBirths {
  readonly recording: Recording;
  /** Rows of the graph, rising. */
  readonly object: Uint32Array;
  /** Row of each in the table of objects. */
  readonly row: Uint32Array;
  /** One in so many of the samples is here. */
  readonly oneIn: number;
}

/** Joins an inventory's sampled objects with their births, by the id under which the recorder told both. */
export function sampledBirths(recording: Recording, { sampled, heapId }: Inventory): SampledBirths {
  const { objects, origins } = recording.tables;
  const placeOf = new Map<number, number>();
  sampled.sourceId.forEach((id, place) => placeOf.set(id, place));
  const rowAt = new Float64Array(sampled.object.length).fill(NaN);
  if (placeOf.size > 0)
    for (let row = 0; row < objects.length; row++) {
      const place = placeOf.get(objects.col.sourceId[row]!);
      if (place !== undefined && origins.col.heapId[objects.col.originId[row]!] === heapId) rowAt[place] = row;
    }
  const known = [...rowAt.keys()].filter((place) => !Number.isNaN(rowAt[place]!));
  return {
    recording,
    object: Uint32Array.from(known, (place) => sampled.object[place]!),
    row: Uint32Array.from(known, (place) => rowAt[place]!),
    oneIn: sampled.oneIn,
  };
}

/** How many objects each sampled one stands for: one over the probability with which it was seen. */
export function weightsOf({ recording, row, oneIn }: SampledBirths): Float64Array {
  const { probability } = recording.tables.objects.col;
  return Float64Array.from(row, (each) => oneIn / (probability[each]! > 0 ? probability[each]! : 1));
}

/** What each sampled object is told under, and the words of these keys. */
export function keysOfBirths(
  { recording, row }: SampledBirths,
  by: Charge | 'band',
): { readonly keys: readonly string[]; readonly keyOf: Uint32Array } {
  const { originId, bornMs } = recording.tables.objects.col;
  const ids = new Map<string, number>();
  const idOf = (words: string): number => {
    let id = ids.get(words);
    if (id === undefined) ids.set(words, (id = ids.size));
    return id;
  };
  if (by === 'band') {
    const bandMs = Math.max(1, recording.durationMs) / BANDS;
    const words = Array.from({ length: BANDS }, (_, band) => bandWords(band * bandMs, (band + 1) * bandMs));
    const keyOf = Uint32Array.from(row, (each) =>
      idOf(words[Math.min(BANDS - 1, Math.max(0, Math.floor(bornMs[each]! / bandMs)))]!),
    );
    return { keys: [...ids.keys()], keyOf };
  }
  const { groupOf, keys } = chargeGroups(recording, by);
  const words = new Map<number, string>();
  const keyOf = Uint32Array.from(row, (each) => {
    const group = groupOf[originId[each]!]!;
    let text = words.get(group);
    if (text === undefined) words.set(group, (text = chargeText(recording, by, keys[group]!)));
    return idOf(text);
  });
  return { keys: [...ids.keys()], keyOf };
}

const bandWords = (fromMs: number, toMs: number): string => `born ${formatDuration(fromMs)} to ${formatDuration(toMs)}`;
