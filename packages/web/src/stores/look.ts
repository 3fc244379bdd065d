import { type Charge, CHARGES, type SideAsk, type Span } from '@brisk-heron/core';
import { computed, ref, type Ref, shallowRef } from 'vue';
import type { LookAsked } from './question.ts';

const LEAST_WINDOW_MS = 20;
const LEAST_SPAN_MS = 0.5;
const CHARGE_KEY = 'brisk-heron charge';

// One choice for every recording, kept by the browser.
function rememberedCharge(): Charge {
  const kept = globalThis.localStorage?.getItem(CHARGE_KEY);
  return CHARGES.find((each) => each === kept) ?? 'ownFrame';
}

// The side that is looked at, and the same without its span.
function sidesOf(
  recordingId: Ref<string>,
  run: Ref<number | null>,
  heaps: Ref<readonly number[] | null>,
  span: Ref<Span | null>,
) {
  const wholeSide = computed<SideAsk>(() => ({
    recording: recordingId.value,
    run: run.value,
    heaps: heaps.value === null ? null : [...heaps.value],
    extent: { kind: 'whole' },
  }));
  const side = computed<SideAsk>(() => {
    if (span.value === null) return wholeSide.value;
    const { fromMs, toMs } = span.value;
    return { ...wholeSide.value, extent: { kind: 'span', fromMs, toMs } };
  });
  return { side, wholeSide };
}

/** What of a recording is looked at, and how: run, heaps, span, window of the ribbon, charge and find. */
export function lookState(recordingId: Ref<string>, durationMs: Ref<number>, isLive: Ref<boolean>) {
  const charge = ref<Charge>(rememberedCharge());
  const find = ref('');
  const span = shallowRef<Span | null>(null);
  /** Window of the ribbon; null shows the whole recording. */
  const window = shallowRef<Span | null>(null);
  /** Run of the input; null for the last. */
  const run = ref<number | null>(null);
  /** Ids of the heaps that are looked at; null for all. */
  const heaps = shallowRef<readonly number[] | null>(null);

  const look = computed<LookAsked>(() => ({ charge: charge.value, find: (find.value ?? '').trim() }));
  const { side, wholeSide } = sidesOf(recordingId, run, heaps, span);
  const shownWindow = computed<Span>(
    () => window.value ?? { fromMs: 0, toMs: Math.max(LEAST_WINDOW_MS, durationMs.value) },
  );
  /** The ribbon follows the head of a live recording until the engineer looks elsewhere. */
  const follows = computed(() => isLive.value && window.value === null);

  /** Takes a span; one that is an instant, as of a mark at the very end, becomes the least there is around it. */
  function putSpan(chosen: Span | null): void {
    span.value =
      chosen === null || chosen.toMs - chosen.fromMs >= LEAST_SPAN_MS
        ? chosen
        : { fromMs: chosen.toMs - LEAST_SPAN_MS, toMs: chosen.toMs };
  }

  /** Keeps a window of time inside the recording; null is all of it. */
  function putWindow(chosen: Span | null): void {
    if (chosen === null) {
      window.value = null;
      return;
    }
    const length = Math.min(durationMs.value, Math.max(LEAST_WINDOW_MS, chosen.toMs - chosen.fromMs));
    const fromMs = Math.min(Math.max(0, chosen.fromMs), durationMs.value - length);
    window.value = length >= durationMs.value && !isLive.value ? null : { fromMs, toMs: fromMs + length };
  }

  function putCharge(next: Charge): void {
    charge.value = next;
    globalThis.localStorage?.setItem(CHARGE_KEY, next);
  }

  /** Forgets what belongs to one run. */
  function resetRun(): void {
    span.value = null;
    window.value = null;
    heaps.value = null;
  }

  function reset(): void {
    resetRun();
    run.value = null;
    find.value = '';
  }

  return {
    charge,
    find,
    span,
    window,
    run,
    heaps,
    look,
    side,
    wholeSide,
    shownWindow,
    follows,
    putSpan,
    putWindow,
    putCharge,
    resetRun,
    reset,
  };
}
