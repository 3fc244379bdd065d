import { formatBytes, formatClock, KIB } from '@brisk-heron/core';

const SECOND_STEPS = [
  0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200,
  14_400, 28_800, 86_400,
];

/** Round instants inside [fromMs, toMs], at most about `most` of them. */
export function timeTicks(fromMs: number, toMs: number, most: number): number[] {
  const wanted = (toMs - fromMs) / Math.max(1, most);
  const stepMs = (SECOND_STEPS.find((step) => step * 1000 >= wanted) ?? 86_400) * 1000;
  const ticks: number[] = [];
  for (let n = Math.ceil(fromMs / stepMs); n * stepMs <= toMs; n++) ticks.push(n * stepMs);
  return ticks;
}

/** An instant as an axis says it: with tenths or hundredths when the ticks are that close. */
export function timeLabel(tMs: number, stepMs: number): string {
  if (stepMs >= 1000) return formatClock(tMs);
  if (stepMs >= 100) return formatClock(tMs, true);
  return `${(tMs / 1000).toFixed(stepMs >= 10 ? 2 : 3)} s`;
}

/** Less than this is no memory in use: an axis of single bytes says nothing. */
const LEAST_BYTES = 64;

/** Round sizes from 0 to `most` bytes, 1, 2 or 5 of a power of ten in a 1024-based unit. */
export function byteTicks(most: number, count: number, least = 0): number[] {
  if (!(most > least) || most < LEAST_BYTES) return [least];
  let unit = 1;
  while (most / unit >= 1024) unit *= KIB;
  const wanted = (most - least) / unit / Math.max(1, count);
  const decade = 10 ** Math.floor(Math.log10(wanted));
  const step = ([1, 2, 5, 10].find((factor) => factor * decade >= wanted) ?? 10) * decade * unit;
  const ticks: number[] = [];
  for (let n = Math.ceil(least / step); n * step <= most * (1 + 1e-9); n++) ticks.push(n * step);
  return ticks;
}

/** A size as an axis says it: without needless digits. */
export function byteLabel(bytes: number): string {
  return bytes === 0
    ? '0'
    : formatBytes(bytes)
        .replace(/\.0+ /, ' ')
        .replace(/(\.\d*?)0+ /, '$1 ');
}
