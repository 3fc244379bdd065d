import type { Span } from '../base/span.ts';
import { type Charge, chargeGroups } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { estimatedBytes } from '../stats/horvitz-thompson.ts';

/**
 * What was born in a span and lives, over its time, by key: `bytesOf(key)[slot]` are the estimated bytes alive at the
 * end of each of `slots` equal slots; null for a key of which nothing was born in it. One pass over the objects.
 */
export function keptSeries(
  recording: Recording,
  span: Span,
  charge: Charge,
  slots: number,
): (key: number) => Float64Array | null {
  const { length, col } = recording.tables.objects;
  const { bornMs, endMs, originId, sizeBytes, probability } = col;
  const { groupOf, keys } = chargeGroups(recording, charge);
  const toMs = Math.min(span.toMs, recording.durationMs);
  const perMs = slots / Math.max(1e-6, toMs - span.fromMs);
  const slotOf = (tMs: number): number => Math.max(0, Math.min(slots, Math.ceil((tMs - span.fromMs) * perMs) - 1));
  // Differences first, and a slot more for what lives past the last; then their sums.
  const levels = new Float64Array(keys.length * (slots + 1));
  const seen = new Uint8Array(keys.length);
  for (let row = 0; row < length; row++) {
    const born = bornMs[row]!;
    if (born < span.fromMs || born >= toMs) continue;
    const group = groupOf[originId[row]!]!;
    const bytes = estimatedBytes(sizeBytes[row]!, probability[row]!);
    const first = group * (slots + 1);
    seen[group] = 1;
    levels[first + slotOf(born)]! += bytes;
    levels[first + (endMs[row]! < toMs ? slotOf(endMs[row]!) : slots)]! -= bytes;
  }
  const rowOf = new Map(Array.from(keys, (key, group) => [key, group]));
  return (key) => {
    const group = rowOf.get(key);
    if (group === undefined || seen[group] === 0) return null;
    const series = levels.slice(group * (slots + 1), group * (slots + 1) + slots);
    for (let slot = 1; slot < slots; slot++) series[slot]! += series[slot - 1]!;
    return series.map((bytes) => Math.max(0, bytes));
  };
}
