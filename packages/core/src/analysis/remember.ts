import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';

interface Remembered<T> {
  readonly of: string;
  readonly value: T;
}

const shared = new WeakSet<ArrayBufferLike>();

/** True for the memory of an array that is remembered: a copy of it may be handed over, it may not. */
export function isRemembered(buffer: ArrayBufferLike): boolean {
  return shared.has(buffer);
}

function remembered<T>(of: string, value: T): Remembered<T> {
  if (typeof value === 'object' && value !== null)
    for (const member of ArrayBuffer.isView(value) ? [value] : Object.values(value))
      if (ArrayBuffer.isView(member)) shared.add(member.buffer);
  return { of, value };
}

/**
 * Works something out of a recording's collections once, until more of it is read: questions about one span after the
 * other, and rules that look at one span, ask for the same again and again. What is answered is shared and not to be
 * changed.
 */
export function rememberReading<T>(work: (recording: Recording) => T): (recording: Recording) => T {
  const known = new WeakMap<Recording, Remembered<T>>();
  return (recording) => {
    const of = readSoFar(recording);
    const last = known.get(recording);
    if (last?.of === of) return last.value;
    const value = work(recording);
    known.set(recording, remembered(of, value));
    return value;
  };
}

/** The whole of a recording, which the ribbon asks for again and again, the span that is looked at, and parts of both. */
const SPANS = 4;

/** The same of a span: the last four of each recording are remembered. */
export function rememberSpan<T>(
  work: (recording: Recording, span: Span) => T,
): (recording: Recording, span: Span) => T {
  const known = new WeakMap<Recording, readonly Remembered<T>[]>();
  return (recording, span) => {
    const of = `${readSoFar(recording)} ${span.fromMs} ${span.toMs}`;
    const last = known.get(recording) ?? [];
    const one = last.find((each) => each.of === of) ?? remembered(of, work(recording, span));
    if (one !== last[0]) known.set(recording, [one, ...last.filter((each) => each !== one)].slice(0, SPANS));
    return one.value;
  };
}

// What may come or change while more is read: rows, when heaps end, and their limits.
function readSoFar({ bytes, durationMs, heaps, tables }: Recording): string {
  const { collections, pauses, releases, sizes, spaces, objects, flows, safepoints, stalls, pacing } = tables;
  return [
    bytes,
    durationMs,
    ...heaps.flatMap(({ limitBytes, endMs, startsEmpty }) => [limitBytes, endMs, startsEmpty]),
    ...[collections, pauses, releases, sizes, spaces, objects, flows, safepoints, stalls, pacing].map(
      ({ length }) => length,
    ),
  ].join(' ');
}
