import type { PauseBuckets } from '@brisk-heron/core';
import { scaleLinear, scaleLog } from 'd3-scale';

/**
 * Geometry of the distribution of pauses: buckets stand side by side over a log scale of length, their edges can be
 * moved.
 */
export interface BucketLayout {
  readonly bars: readonly {
    readonly x: number;
    readonly width: number;
    readonly y: number;
    readonly height: number;
    readonly count: number;
    readonly bucket: number;
  }[];
  /** Edges that can be moved: all but the first (0) and the last. */
  readonly handles: readonly {
    readonly edge: number;
    readonly x: number;
    readonly ms: number;
    readonly labelled: boolean;
  }[];
  readonly axisY: number;
  readonly left: number;
  readonly right: number;
  /** Length at a place of the axis. */
  readonly msAt: (x: number) => number;
}

const LEFT = 12;
const RIGHT = 12;
const TOP = 30;
const BOTTOM = 30;
const LABEL_GAP = 38;

/**
 * Buckets before the first pause and after the last take no room. Bars begin at the axis; their height is their count.
 */
export function bucketLayout(buckets: PauseBuckets, width: number, height: number): BucketLayout {
  const { edgesMs, counts } = buckets;
  const first = Math.max(
    0,
    counts.findIndex((count) => count > 0),
  );
  const last = Math.max(
    first,
    counts.findLastIndex((count) => count > 0),
  );
  const from = first === 0 ? (edgesMs[1] ?? 1) / 3 : edgesMs[first]! / 1.5;
  const to = edgesMs[last + 1]! * 1.2;
  const x = scaleLog([from, to], [LEFT, width - RIGHT]).clamp(true);
  const axisY = height - BOTTOM;
  const y = scaleLinear(
    [
      0,
      Math.max(
        1,
        counts.reduce((a, b) => Math.max(a, b), 1),
      ),
    ],
    [axisY, TOP],
  );
  const bars = counts
    .map((count, bucket) => {
      const x0 = x(Math.max(from, edgesMs[bucket]!));
      return {
        x: x0,
        width: Math.max(0, x(edgesMs[bucket + 1]!) - x0 - 1),
        y: y(count),
        height: axisY - y(count),
        count,
        bucket,
      };
    })
    .filter(({ bucket }) => bucket >= first && bucket <= last);
  let free = -Infinity;
  const handles = edgesMs
    .map((ms, edge) => ({ ms, edge }))
    .slice(1, -1)
    .filter(({ ms }) => ms >= from && ms <= to)
    .map(({ ms, edge }) => {
      const at = x(ms);
      const labelled = at - free >= LABEL_GAP;
      if (labelled) free = at;
      return { edge, x: at, ms, labelled };
    });
  return { bars, handles, axisY, left: LEFT, right: width - RIGHT, msAt: (place) => x.invert(place) };
}

/** Edges with one moved; kept two digits short, so that a dragged edge reads as a figure. */
export function movedEdge(edgesMs: readonly number[], edge: number, ms: number): number[] {
  const rounded = Number(Math.max(0.01, ms).toPrecision(2));
  return edgesMs.map((known, place) => (place === edge ? rounded : known)).slice(1);
}

/** Edges that were typed, `1, 2, 5 10`; null when the text holds anything but positive lengths. */
export function readEdges(text: string): number[] | null {
  const parts = text
    .split(/[\s,;]+/)
    .filter((part) => part !== '')
    .map(Number);
  return parts.length > 0 && parts.length <= 40 && parts.every((ms) => Number.isFinite(ms) && ms > 0) ? parts : null;
}
