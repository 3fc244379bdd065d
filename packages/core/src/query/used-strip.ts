import { usedSeries } from '../analysis/used-series.ts';
import type { Recording } from '../model/recording.ts';
import { wholeSpan } from '../model/whole-span.ts';
import { binExtremes } from './downsample.ts';

/** The most that was used in each of `slices` equal stretches of the recording, in bytes; 0 where nothing was read. */
export function usedStrip(recording: Recording, slices: number): number[] {
  return usedRange(recording, slices).most;
}

/** The same with the least that was used. */
export function usedRange(recording: Recording, slices: number): { least: number[]; most: number[] } {
  const used = usedSeries(recording);
  const { low, high } = binExtremes(used.tMs, used.bytes, wholeSpan(recording), slices);
  const told = (column: Float64Array): number[] => Array.from(column, (bytes) => (Number.isFinite(bytes) ? bytes : 0));
  return { least: told(low), most: told(high) };
}
