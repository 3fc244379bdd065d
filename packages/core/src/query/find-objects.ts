import { idleStretches } from '../analysis/idle.ts';
import { lastLooksMs } from '../analysis/last-looks.ts';
import { firstAtOrAfter } from '../base/binary-search.ts';
import type { Span } from '../base/span.ts';
import { partOf } from '../model/recording-part.ts';
import type { Recording } from '../model/recording.ts';
import {
  FIND_CHOICES,
  readFind,
  type FindFate,
  type FindKind,
  type FindTerm,
  type FindWhen,
  type RangeTerm,
} from './find-terms.ts';

/**
 * What of a recording has the sizes, ages, fates and kinds that a find asks for. Its words are another matter
 * (query/find-origins.ts).
 */
export interface FoundObjects {
  /** The recording with the objects that were found, and with its flows or without. */
  readonly part: Recording;
  /**
   * Flows count: their objects were not seen, and died within their interval, so that they have a fate and no size or
   * age.
   */
  readonly withFlows: boolean;
  /** Objects of which the source tells no size of their own, and that a size was asked of: they are left out. */
  readonly sizeUntold: number;
}

/** True when a find asks for more than words, so that objects must be looked at one by one. */
export function asksForObjects(text: string): boolean {
  return readFind(text).terms.some((term) => term.is !== 'word');
}

/**
 * The objects that a find's sizes, ages, fates and kinds let through, by the end of a span: an object that lives then
 * is as old as it has become, one that is dead as old as it was when its death was noticed. Linear: one pass over the
 * objects for each term, then a copy of what is found.
 */
export function findObjects(recording: Recording, text: string, span: Span, settleMs: number): FoundObjects {
  const { terms } = readFind(text);
  const { objects, flows } = recording.tables;
  const ranges = terms.filter((term) => term.is === 'range');
  const fates = chosenOf(terms, 'fate');
  const kinds = chosenOf(terms, 'kind');
  const times = chosenOf(terms, 'when');
  const anyTime = times.size === FIND_CHOICES.when.length;
  const withObjects = kinds.has('object');
  const withFlows = kinds.has('flow') && fates.has('died') && ranges.length === 0 && anyTime;
  const keep = new Uint8Array(objects.length).fill(withObjects ? 1 : 0);
  let sizeUntold = 0;
  if (withObjects) {
    for (const range of ranges) {
      if (range.of === 'size') sizeUntold = keepSizes(recording, range, keep);
      else if (range.of === 'age') keepAges(recording, range, span.toMs, keep);
      else keepBirths(recording, range, keep);
    }
    if (!anyTime) keepTimes(recording, times, keep);
    if (fates.size < FIND_CHOICES.fate.length) keepFates(recording, fates, { span, settleMs }, keep);
  }
  const rows = rowsOf(keep);
  return {
    part: partOf(recording, {
      // Nothing is copied where nothing is left out.
      objects: rows.length === objects.length ? objects : objects.pickedAsAsked(rows),
      flows: withFlows ? flows : flows.picked(new Uint32Array(0)),
    }),
    withFlows,
    sizeUntold,
  };
}

/** Kinds of evidence that a find lets through. */
export function findKinds(text: string): ReadonlySet<FindKind> {
  return chosenOf(readFind(text).terms, 'kind');
}

// What is asked for by name, else all; less what must not be there.
function chosenOf(terms: readonly FindTerm[], of: 'fate'): Set<FindFate>;
function chosenOf(terms: readonly FindTerm[], of: 'when'): Set<FindWhen>;
function chosenOf(terms: readonly FindTerm[], of: 'kind'): Set<FindKind>;
function chosenOf(terms: readonly FindTerm[], of: 'fate' | 'when' | 'kind'): Set<string> {
  const said = terms.filter((term) => term.is === 'choice').filter((term) => term.of === of);
  const wanted = said.filter(({ not }) => !not).map(({ value }) => value);
  const chosen = new Set<string>(wanted.length > 0 ? wanted : FIND_CHOICES[of]);
  for (const { value, not } of said) if (not) chosen.delete(value);
  return chosen;
}

// Kernels: one pass, no allocation a row. Answers how many objects have no size of their own.
function keepSizes(recording: Recording, { low, high, not }: RangeTerm, keep: Uint8Array): number {
  const { sizeBytes, probability } = recording.tables.objects.col;
  let untold = 0;
  for (let row = 0; row < keep.length; row++) {
    const size = sizeBytes[row]!;
    const isIn = size >= low && size <= high;
    const p = probability[row]!;
    if (p !== p) untold++;
    if (isIn === not || p !== p) keep[row] = 0;
  }
  return untold;
}

function keepBirths(recording: Recording, { low, high, not }: RangeTerm, keep: Uint8Array): void {
  const { bornMs } = recording.tables.objects.col;
  for (let row = 0; row < keep.length; row++) {
    const born = bornMs[row]!;
    const isIn = born >= low && born <= high;
    if (isIn === not) keep[row] = 0;
  }
}

// Births are in no order: the stretches are looked up by their beginnings.
function keepTimes(recording: Recording, times: ReadonlySet<FindWhen>, keep: Uint8Array): void {
  const { bornMs } = recording.tables.objects.col;
  const stretches = idleStretches(recording);
  const fromMs = Float64Array.from(stretches, (stretch) => stretch.fromMs);
  for (let row = 0; row < keep.length; row++) {
    const born = bornMs[row]!;
    const next = firstAtOrAfter(fromMs, born);
    const stretch = stretches[fromMs[next] === born ? next : next - 1];
    const isIdle = stretch !== undefined && born < stretch.toMs;
    if (!times.has(isIdle ? 'idle' : 'busy')) keep[row] = 0;
  }
}

function keepAges(recording: Recording, { low, high, not }: RangeTerm, atMs: number, keep: Uint8Array): void {
  const { bornMs, endMs } = recording.tables.objects.col;
  for (let row = 0; row < keep.length; row++) {
    const born = bornMs[row]!;
    const end = endMs[row]!;
    const age = (end < atMs ? end : atMs) - born;
    const isIn = age >= low && age <= high;
    if (isIn === not || age < 0) keep[row] = 0;
  }
}

// The same rules as those of the sums by fate (analysis/origin-sums.ts).
function keepFates(
  recording: Recording,
  fates: ReadonlySet<FindFate>,
  { span: { toMs }, settleMs }: { span: Span; settleMs: number },
  keep: Uint8Array,
): void {
  const { bornMs, endMs, lost, originId } = recording.tables.objects.col;
  const { heapId } = recording.tables.origins.col;
  const looksMs = lastLooksMs(recording);
  const [kept, died, recent] = (['kept', 'died', 'recent'] as const).map((fate) => (fates.has(fate) ? 1 : 0));
  for (let row = 0; row < keep.length; row++) {
    const isOver = endMs[row]! < toMs;
    const born = bornMs[row]!;
    const isYoung = toMs - born < settleMs || (Number.isNaN(endMs[row]!) && born > looksMs[heapId[originId[row]!]!]!);
    // What became of one that was lost from sight is not known.
    const holds = born >= toMs ? 0 : isOver ? (lost[row] === 1 ? 0 : died!) : isYoung ? recent! : kept!;
    if (holds === 0) keep[row] = 0;
  }
}

// Every row is written, and the place moves on only past those that stay: no branch to mispredict.
function rowsOf(keep: Uint8Array): Uint32Array {
  const rows = new Uint32Array(keep.length + 1);
  let count = 0;
  for (let row = 0; row < keep.length; row++) {
    rows[count] = row;
    count += keep[row]!;
  }
  return rows.subarray(0, count);
}
