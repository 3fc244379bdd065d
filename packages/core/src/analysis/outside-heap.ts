import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { theilSen } from '../stats/theil-sen.ts';

/** Memory that the collector does not manage, as the runtime tells it: the last reading and its slope over the span. */
export interface OutsideHeap {
  /** Held by the heap but lying outside it: buffers, external strings. NaN when not told. */
  readonly externalBytes: number;
  readonly externalBytesPerSec: number;
  /** The whole process in memory. NaN when not told. */
  readonly residentBytes: number;
  readonly residentBytesPerSec: number;
}

/** Readings used for a slope; more are thinned evenly, since the slope costs their square. */
const MOST_READINGS = 300;

/** Last reading and Theil–Sen slope of external and resident size in the span, heaps added; null when no size was read. */
export function outsideHeap(recording: Recording, span: Span): OutsideHeap | null {
  const external = series(recording, span, 'externalBytes');
  const resident = series(recording, span, 'residentBytes');
  if (external.bytes.length === 0 && resident.bytes.length === 0) return null;
  return {
    externalBytes: external.bytes.at(-1) ?? NaN, externalBytesPerSec: slopeOf(external),
    residentBytes: resident.bytes.at(-1) ?? NaN, residentBytesPerSec: slopeOf(resident),
  };
}

interface Readings {
  readonly seconds: number[];
  readonly bytes: number[];
}

function series(recording: Recording, span: Span, column: 'externalBytes' | 'residentBytes'): Readings {
  const { sizes } = recording.tables;
  const last = new Float64Array(Math.max(1, recording.heaps.length));
  const seconds: number[] = [];
  const bytes: number[] = [];
  let total = 0;
  for (let row = 0; row < sizes.length; row++) {
    const tMs = sizes.col.tMs[row]!;
    const value = sizes.col[column][row]!;
    if (Number.isNaN(value) || tMs > span.toMs) continue;
    const heapId = sizes.col.heapId[row]!;
    total += value - last[heapId]!;
    last[heapId] = value;
    if (tMs < span.fromMs) continue;
    seconds.push(tMs / 1000);
    bytes.push(total);
  }
  return { seconds, bytes };
}

function slopeOf({ seconds, bytes }: Readings): number {
  const step = Math.max(1, Math.ceil(bytes.length / MOST_READINGS));
  const thinned = (values: readonly number[]): Float64Array => Float64Array.from(values.filter((_, place) => place % step === 0));
  const line = theilSen(thinned(seconds), thinned(bytes));
  return line.kind === 'slope' ? line.slope : NaN;
}
