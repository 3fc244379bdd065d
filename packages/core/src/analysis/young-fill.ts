import { firstAtOrAfter } from '../base/binary-search.ts';
import { contains, type Span } from '../base/span.ts';
import type { ChargeGroups, OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag, Scope } from '../model/tables.ts';
import { estimatedBytes } from '../stats/horvitz-thompson.ts';
import { bornWithin } from './birth-order.ts';
import type { SpanFlow } from './span-flows.ts';

/** The stretches between one heap's collections, and what all allocated in each. */
interface HeapFill {
  /** Starts of the collections inside the span, ascending: the ends of the stretches. */
  readonly endsMs: Float64Array;
  /** 1 for a stretch that a young collection of the program ends. */
  readonly isYoung: Uint8Array;
  readonly bytes: Float64Array;
  /** Running integral over time of 1/bytes, in stretches that count: what a flow of one byte a millisecond causes. */
  readonly perByteMs: Float64Array;
}

/** What filled the young space before each young collection of a span. Made once for all tables of the span. */
export interface YoungFill {
  readonly span: Span;
  readonly collections: number;
  readonly heaps: readonly HeapFill[];
}

const NO_FILL = CollectionFlag.concurrentCycle | CollectionFlag.unfinished;
const ASKED_FOR = CollectionFlag.own | CollectionFlag.explicit;

/** Bytes of all objects and flows between the collections of a span. One pass over those of the span. */
export function youngFill(recording: Recording, span: Span, flows: readonly SpanFlow[]): YoungFill {
  const heaps = recording.heaps.map((_, heapId) => stretchesOf(recording, span, heapId));
  const { bornMs, sizeBytes, probability, originId } = recording.tables.objects.col;
  const { heapId } = recording.tables.origins.col;
  const at = new Stretches(heaps);
  const rows = bornWithin(recording, span);
  for (let place = 0; place < rows.length; place++) {
    const row = rows[place]!;
    at.goTo(heapId[originId[row]!]!, bornMs[row]!);
    if (at.stretch < at.fill.bytes.length)
      at.fill.bytes[at.stretch]! += estimatedBytes(sizeBytes[row]!, probability[row]!);
  }
  for (const flow of merged(flows, heapId)) spread(heaps[flow.heapId]!, span, flow);
  for (const heap of heaps) integrate(heap, span);
  return {
    span,
    heaps,
    collections: heaps.reduce((sum, heap) => sum + heap.isYoung.reduce((count, each) => count + each, 0), 0),
  };
}

/**
 * Young collections that each group of origins caused: of every one, the share of the bytes allocated since the
 * collection before that were the group's. Together they are all of them, where all groups are taken. One pass over the
 * objects and flows.
 */
export function youngCaused(
  recording: Recording,
  { span, heaps }: YoungFill,
  groups: ChargeGroups,
  { chosen, flows }: { chosen: OriginChoice; flows: readonly SpanFlow[] },
): Float64Array {
  const caused = new Float64Array(groups.keys.length);
  const { bornMs, sizeBytes, probability, originId } = recording.tables.objects.col;
  const { heapId } = recording.tables.origins.col;
  const { groupOf } = groups;
  const at = new Stretches(heaps);
  const rows = bornWithin(recording, span);
  for (let place = 0; place < rows.length; place++) {
    const row = rows[place]!;
    const origin = originId[row]!;
    if (chosen !== null && chosen[origin] !== 1) continue;
    at.goTo(heapId[origin]!, bornMs[row]!);
    if (at.fill.isYoung[at.stretch] === 1)
      caused[groupOf[origin]!]! += estimatedBytes(sizeBytes[row]!, probability[row]!) / at.fill.bytes[at.stretch]!;
  }
  for (const { originId: origin, fromMs, toMs, bytes } of flows) {
    if (chosen !== null && chosen[origin] !== 1) continue;
    const heap = heaps[heapId[origin]!]!;
    caused[groups.groupOf[origin]!]! +=
      (bytes / Math.max(1e-9, toMs - fromMs)) * (integralAt(heap, span, toMs) - integralAt(heap, span, fromMs));
  }
  return caused;
}

/** The stretch that an instant lies in, for instants that ascend. */
class Stretches {
  fill: HeapFill;
  stretch = 0;
  private heap = 0;
  /** End of the stretch; ∞ behind the last. */
  private endMs: number;
  private readonly heaps: readonly HeapFill[];
  private readonly last: Uint32Array;

  constructor(heaps: readonly HeapFill[]) {
    this.heaps = heaps;
    this.last = new Uint32Array(heaps.length);
    this.fill = heaps[0] ?? { endsMs: NONE, isYoung: new Uint8Array(0), bytes: NONE, perByteMs: NONE };
    this.endMs = this.fill.endsMs[0] ?? Infinity;
  }

  goTo(heap: number, tMs: number): void {
    if (heap !== this.heap) this.changeTo(heap);
    if (tMs > this.endMs) this.goOn(tMs);
  }

  private changeTo(heap: number): void {
    this.last[this.heap] = this.stretch;
    this.heap = heap;
    this.fill = this.heaps[heap]!;
    this.stretch = this.last[heap]!;
    this.endMs = this.fill.endsMs[this.stretch] ?? Infinity;
  }

  private goOn(tMs: number): void {
    const { endsMs } = this.fill;
    while (this.stretch < endsMs.length && tMs > endsMs[this.stretch]!) this.stretch++;
    this.endMs = endsMs[this.stretch] ?? Infinity;
  }
}

const NONE = new Float64Array(0);

function stretchesOf(recording: Recording, span: Span, heap: number): HeapFill {
  const {
    length,
    col: { startMs, heapId, scope, flags },
  } = recording.tables.collections;
  const rows: number[] = [];
  for (let row = 0; row < length; row++)
    if (heapId[row] === heap && contains(span, startMs[row]!) && !(flags[row]! & NO_FILL)) rows.push(row);
  rows.sort((a, b) => startMs[a]! - startMs[b]!);
  return {
    endsMs: Float64Array.from(rows, (row) => startMs[row]!),
    isYoung: Uint8Array.from(rows, (row) => (scope[row] === Scope.young && !(flags[row]! & ASKED_FOR) ? 1 : 0)),
    bytes: new Float64Array(rows.length),
    perByteMs: new Float64Array(rows.length + 1),
  };
}

interface HeapFlow {
  readonly heapId: number;
  readonly fromMs: number;
  readonly toMs: number;
  bytes: number;
}

// Flows of one poll share their interval: they are spread together.
function merged(flows: readonly SpanFlow[], heapId: Uint16Array): Iterable<HeapFlow> {
  const sums = new Map<string, HeapFlow>();
  for (const { originId, fromMs, toMs, bytes } of flows) {
    const key = `${heapId[originId]!} ${fromMs} ${toMs}`;
    const sum = sums.get(key);
    if (sum === undefined) sums.set(key, { heapId: heapId[originId]!, fromMs, toMs, bytes });
    else sum.bytes += bytes;
  }
  return sums.values();
}

function spread({ endsMs, bytes }: HeapFill, span: Span, flow: HeapFlow): void {
  const perMs = flow.bytes / Math.max(1e-9, flow.toMs - flow.fromMs);
  for (let stretch = firstAtOrAfter(endsMs, flow.fromMs); stretch < endsMs.length; stretch++) {
    const from = Math.max(flow.fromMs, stretch === 0 ? span.fromMs : endsMs[stretch - 1]!);
    if (from >= flow.toMs) return;
    bytes[stretch]! += perMs * (Math.min(flow.toMs, endsMs[stretch]!) - from);
  }
}

function integrate({ endsMs, isYoung, bytes, perByteMs }: HeapFill, span: Span): void {
  for (let stretch = 0; stretch < endsMs.length; stretch++) {
    const lengthMs = endsMs[stretch]! - (stretch === 0 ? span.fromMs : endsMs[stretch - 1]!);
    perByteMs[stretch + 1] =
      perByteMs[stretch]! + (isYoung[stretch] === 1 && bytes[stretch]! > 0 ? lengthMs / bytes[stretch]! : 0);
  }
}

function integralAt({ endsMs, perByteMs }: HeapFill, span: Span, tMs: number): number {
  const stretch = firstAtOrAfter(endsMs, tMs);
  if (stretch >= endsMs.length) return perByteMs[endsMs.length]!;
  const fromMs = stretch === 0 ? span.fromMs : endsMs[stretch - 1]!;
  const lengthMs = endsMs[stretch]! - fromMs;
  const share = lengthMs > 0 ? Math.max(0, tMs - fromMs) / lengthMs : 0;
  return perByteMs[stretch]! + share * (perByteMs[stretch + 1]! - perByteMs[stretch]!);
}
