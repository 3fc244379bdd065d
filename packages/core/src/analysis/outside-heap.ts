import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { Space, spacesOf } from '../model/space.ts';
import { bytesVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import { heapLives } from './heap-lives.ts';
import { blockMinima } from '../stats/block-minima.ts';
import { theilSen } from '../stats/theil-sen.ts';

/** Memory that the collector does not manage, as the runtime tells it: the last reading and its slope over the span. */
export interface OutsideHeap {
  /** Held by the heap but lying outside it: buffers, external strings. NaN when not told. */
  readonly externalBytes: number;
  readonly externalBytesPerSec: number;
  /**
   * Part of the external bytes at the span's end that a call path is known of, with its standard error; NaN where none
   * is followed.
   */
  readonly attributedBytes: number;
  readonly attributedBytesSe: number;
  /** The external bytes less those; never below 0. NaN where none is followed. */
  readonly unattributedBytes: number;
  /** The whole process in memory. NaN when not told. */
  readonly residentBytes: number;
  readonly residentBytesPerSec: number;
}

/** Readings used for a slope; more are thinned evenly, since the slope costs their square. */
const MOST_READINGS = 300;
/** Readings of which the least is taken, and fewest groups of them. */
const READINGS_PER_BLOCK = 4;
const LEAST_BLOCKS = 12;

/**
 * Last reading and Theil–Sen slope of external and resident size in the span, heaps added; null when no size was read.
 */
export function outsideHeap(recording: Recording, span: Span): OutsideHeap | null {
  const external = series(recording, span, 'externalBytes');
  const resident = series(recording, span, 'residentBytes');
  if (external.bytes.length === 0 && resident.bytes.length === 0) return null;
  const externalBytes = external.bytes.at(-1) ?? NaN;
  const attributed = attributedAt(recording, span.toMs);
  return {
    ...attributed,
    unattributedBytes: Math.max(0, externalBytes - attributed.attributedBytes),
    externalBytes,
    externalBytesPerSec: slopeOf(external),
    residentBytes: resident.bytes.at(-1) ?? NaN,
    residentBytesPerSec: slopeOf(resident),
  };
}

// What lives outside the heap at an instant and was seen to be made. One pass over the objects, where any lie there.
function attributedAt(recording: Recording, tMs: number): Pick<OutsideHeap, 'attributedBytes' | 'attributedBytesSe'> {
  const spaces = spacesOf(recording);
  if (spaces === null) return { attributedBytes: NaN, attributedBytesSe: NaN };
  const {
    length,
    col: { bornMs, endMs, originId, sizeBytes, probability },
  } = recording.tables.objects;
  let [bytes, variance] = [0, 0];
  for (let row = 0; row < length; row++) {
    if (spaces[originId[row]!] !== Space.outside || bornMs[row]! > tMs || endMs[row]! <= tMs) continue;
    bytes += estimatedBytes(sizeBytes[row]!, probability[row]!);
    variance += bytesVariance(sizeBytes[row]!, probability[row]!);
  }
  return { attributedBytes: bytes, attributedBytesSe: Math.sqrt(variance) };
}

/** Readings of a size in order of time, heaps added: parallel columns. */
export interface SizeReadings {
  readonly tMs: Float64Array;
  readonly bytes: Float64Array;
}

/**
 * What the heaps hold outside of them, over the span, at its lowest: buffers are given back only after a collection
 * found them dead, so that the least of every few readings is what stays. At most a few hundred.
 */
export function externalSeries(recording: Recording, span: Span): SizeReadings {
  const { seconds, bytes } = series(recording, span, 'externalBytes');
  const blocks = Math.min(MOST_READINGS, Math.max(LEAST_BLOCKS, Math.floor(bytes.length / READINGS_PER_BLOCK)));
  const { x, y } = blockMinima(
    Float64Array.from(seconds, (each) => each * 1000),
    Float64Array.from(bytes),
    blocks,
  );
  return { tMs: x, bytes: y };
}

/** What the processes have in memory, over the span, thinned likewise. */
export function residentSeries(recording: Recording, span: Span): SizeReadings {
  return thinned(series(recording, span, 'residentBytes'));
}

interface Readings {
  readonly seconds: number[];
  readonly bytes: number[];
}

// A heap that ended holds nothing any more.
function series(recording: Recording, span: Span, column: 'externalBytes' | 'residentBytes'): Readings {
  const lives = recording.heaps.length > 1 ? heapLives(recording) : [];
  const { sizes } = recording.tables;
  const last = new Float64Array(Math.max(1, recording.heaps.length));
  const seconds: number[] = [];
  const bytes: number[] = [];
  let total = 0;
  for (let row = 0; row < sizes.length; row++) {
    const tMs = sizes.col.tMs[row]!;
    const value = sizes.col[column][row]!;
    if (Number.isNaN(value) || tMs > span.toMs) continue;
    for (let heap = 0; heap < lives.length; heap++)
      if (lives[heap]!.toMs < tMs) [total, last[heap]] = [total - last[heap]!, 0];
    const heapId = sizes.col.heapId[row]!;
    total += value - last[heapId]!;
    last[heapId] = value;
    if (tMs < span.fromMs) continue;
    seconds.push(tMs / 1000);
    bytes.push(total);
  }
  return { seconds, bytes };
}

function thinned({ seconds, bytes }: Readings): SizeReadings {
  const step = Math.max(1, Math.ceil(bytes.length / MOST_READINGS));
  const of = (values: readonly number[]): Float64Array =>
    Float64Array.from(values.filter((_, place) => place % step === 0));
  return { tMs: of(seconds).map((each) => each * 1000), bytes: of(bytes) };
}

function slopeOf(readings: Readings): number {
  const { tMs, bytes } = thinned(readings);
  const line = theilSen(
    tMs.map((each) => each / 1000),
    bytes,
  );
  return line.kind === 'slope' ? line.slope : NaN;
}
