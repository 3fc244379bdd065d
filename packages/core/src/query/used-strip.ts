import { usedSeries } from '../analysis/used-series.ts';
import type { Recording } from '../model/recording.ts';
import { wholeSpan } from '../model/whole-span.ts';
import { binExtremes } from './downsample.ts';

/** The most that was used in each of `slices` equal stretches of the recording, in bytes; 0 where nothing was read. */
export function usedStrip(recording: Recording, slices: number): number[] {
  const used = usedSeries(recording);
  const { high } = binExtremes(used.tMs, used.bytes, wholeSpan(recording), slices);
  return Array.from(high, (bytes) => (Number.isFinite(bytes) ? bytes : 0));
}
