import { type Charge, CHARGES, type SideAsk, type Span } from '@brisk-heron/core';
import { computed, ref, type Ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless, numberOf, oneOf, stretchOf, stretchText } from './address.ts';
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

// The charge always stands in the address: what is remembered here is not what a link's reader remembers.
function addressOf({ charge, find, span, window, run, heaps }: LookRefs): AddressPart {
  const idsOf = (written: string | undefined): readonly number[] | null => {
    const ids = (written ?? '').split(',').map(numberOf);
    return ids.every((id) => Number.isInteger(id) && id >= 0) ? ids : null;
  };
  return {
    write: () => [
      ['charge', charge.value],
      ...memberUnless('find', (find.value ?? '').trim(), ''),
      ...memberUnless('span', span.value === null ? '' : stretchText(span.value), ''),
      ...memberUnless('window', window.value === null ? '' : stretchText(window.value), ''),
      ...memberUnless('run', run.value === null ? '' : String(run.value + 1), ''),
      ...memberUnless('heaps', heaps.value === null ? '' : heaps.value.join(','), ''),
    ],
    read: (members) => {
      charge.value = oneOf(CHARGES, members.get('charge'), charge.value);
      find.value = members.get('find') ?? '';
      span.value = stretchOf(members.get('span'));
      window.value = stretchOf(members.get('window'));
      const number = numberOf(members.get('run'));
      run.value = Number.isInteger(number) && number >= 1 ? number - 1 : null;
      heaps.value = idsOf(members.get('heaps'));
    },
  };
}

interface ExtentRefs {
  readonly span: Ref<Span | null>;
  readonly window: Ref<Span | null>;
  readonly run: Ref<number | null>;
  readonly heaps: Ref<readonly number[] | null>;
}

interface LookRefs extends ExtentRefs {
  readonly charge: Ref<Charge>;
  readonly find: Ref<string>;
}

function bounds({ span, window, run, heaps }: ExtentRefs, durationMs: Ref<number>, isLive: Ref<boolean>) {
  return {
    /** Drops what lies outside the recording, as a link to a longer one may say. */
    fit(): void {
      if (isLive.value) return;
      if (span.value !== null && span.value.fromMs >= durationMs.value) span.value = null;
      if (window.value !== null && window.value.fromMs >= durationMs.value) window.value = null;
    },
    /** True when less than all of the recording is looked at. */
    isNarrowed: (): boolean => span.value !== null || run.value !== null || heaps.value !== null,
  };
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
    ...bounds({ span, window, run, heaps }, durationMs, isLive),
    address: addressOf({ charge, find, span, window, run, heaps }),
  };
}
