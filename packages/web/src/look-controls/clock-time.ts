import { formatClock, parseClock, type Span } from '@brisk-heron/core';

/** Recording time beside the clock on the wall, and both as they are typed. Milliseconds from the recording's start. */

const HOURS = /^\s*(?:(\d{4})-(\d\d)-(\d\d)[T ])?(\d{1,2}):(\d\d):(\d\d(?:\.\d+)?)\s*$/;
const DAY_MS = 86_400_000;

// Name of the zone that clock times are told in, as `GMT+2`.
function zoneName(epochMs: number): string {
  return (
    new Intl.DateTimeFormat('en', { timeZoneName: 'short' })
      .formatToParts(epochMs)
      .find(({ type }) => type === 'timeZoneName')?.value ?? ''
  );
}

/** A clock time to the second: `14:03:12`. */
export function wallClock(epochMs: number): string {
  return new Date(epochMs).toLocaleTimeString('en-GB');
}

/** A stretch of the recording by the clock on the wall, with its zone; '' where the recording tells none. */
export function wallSpan({ fromMs, toMs }: Span, startEpochMs: number): string {
  if (!Number.isFinite(startEpochMs)) return '';
  const from = startEpochMs + fromMs;
  return `${wallClock(from)} – ${wallClock(startEpochMs + toMs)} ${zoneName(from)}`;
}

/** Of which recording a time is typed. */
export interface TimeFrame {
  readonly durationMs: number;
  /** NaN where the recording tells no clock. */
  readonly startEpochMs: number;
}

/**
 * The instant that is typed: recording time (`1:23.4`, `1:02:03`, `90 s`) or, where the recording knows it, a clock time
 * (`14:03:12`, `2026-11-29 14:03:12`). Hours, minutes and seconds that lie inside the recording are its own time. NaN
 * for neither, or outside the recording.
 */
export function parseInstant(text: string, { durationMs, startEpochMs }: TimeFrame): number {
  const own = parseClock(text);
  if (own >= 0 && own <= durationMs) return own;
  const found = HOURS.exec(text);
  if (found === null || !Number.isFinite(startEpochMs)) return NaN;
  const [, year, month, day, hours, minutes, seconds] = found.map(Number);
  const at = new Date(startEpochMs);
  if (found[1] !== undefined) at.setFullYear(year!, month! - 1, day);
  at.setHours(hours!, minutes, 0, 0);
  const offMs = at.getTime() + seconds! * 1000 - startEpochMs;
  // Without its date, a time of day before the start is that of a later day.
  for (let tMs = offMs; tMs <= durationMs && found[1] === undefined; tMs += DAY_MS) if (tMs >= 0) return tMs;
  return offMs >= 0 && offMs <= durationMs ? offMs : NaN;
}

/** What is typed to go to: an instant, or two with a dash between them. Null for neither. */
export function parseGoal(text: string, frame: TimeFrame): { readonly tMs: number } | Span | null {
  const [from, to, ...more] = text.split(/\s*–\s*|\s+-\s+|\s+to\s+/);
  const fromMs = parseInstant(from ?? '', frame);
  if (Number.isNaN(fromMs) || more.length > 0) return null;
  if (to === undefined) return { tMs: fromMs };
  const toMs = parseInstant(to, frame);
  return toMs > fromMs ? { fromMs, toMs } : null;
}

/** An instant in the recording's time and, where it is known, by the clock: `0:20.1, 14:03:12`. */
export function bothClocks(tMs: number, startEpochMs: number): string {
  const own = formatClock(tMs, true);
  return Number.isFinite(startEpochMs) ? `${own}, ${wallClock(startEpochMs + tMs)}` : own;
}
