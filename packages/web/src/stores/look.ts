import { type Charge, CHARGES, type SideAsk, type Span } from '@brisk-heron/core';
import { computed, ref, type Ref, shallowRef } from 'vue';
import {
  type AddressMember,
  type AddressPart,
  instantText,
  memberUnless,
  numberOf,
  oneOf,
  stretchOf,
  stretchText,
} from './address.ts';
import type { LookAsked } from './question.ts';

const LEAST_WINDOW_MS = 20;
const LEAST_SPAN_MS = 0.5;
const CHARGE_KEY = 'brisk-heron charge';

// One choice for every recording, kept by the browser.
function rememberedCharge(): Charge {
  const kept = globalThis.localStorage?.getItem(CHARGE_KEY);
  return CHARGES.find((each) => each === kept) ?? 'ownFrame';
}

function remember(charge: Ref<Charge>, next: Charge): void {
  charge.value = next;
  globalThis.localStorage?.setItem(CHARGE_KEY, next);
}

// The side that is looked at, and the same without its span.
function sidesOf(
  recordingId: Ref<string>,
  run: Ref<number | null>,
  heaps: Ref<readonly number[] | null>,
  span: Readonly<Ref<Span | null>>,
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

// A span that goes on to the head ends where the recording does, now.
function openSpan(chosen: Span | null, durationMs: number): Span | null {
  if (chosen === null || chosen.toMs !== Infinity) return chosen;
  return { fromMs: chosen.fromMs, toMs: Math.max(chosen.fromMs + LEAST_SPAN_MS, durationMs) };
}

function spanMember(chosen: Span | null): AddressMember[] {
  if (chosen === null) return [];
  return chosen.toMs === Infinity ? [['since', instantText(chosen.fromMs)]] : [['span', stretchText(chosen)]];
}

// The charge always stands in the address: what is remembered here is not what a link's reader remembers.
function addressOf({ charge, find, chosen, window, run, heaps }: LookRefs): AddressPart {
  const idsOf = (written: string | undefined): readonly number[] | null => {
    const ids = (written ?? '').split(',').map(numberOf);
    return ids.every((id) => Number.isInteger(id) && id >= 0) ? ids : null;
  };
  return {
    write: () => [
      ['charge', charge.value],
      ...memberUnless('find', (find.value ?? '').trim(), ''),
      ...spanMember(chosen.value),
      ...memberUnless('window', window.value === null ? '' : stretchText(window.value), ''),
      ...memberUnless('run', run.value === null ? '' : String(run.value + 1), ''),
      ...memberUnless('heaps', heaps.value === null ? '' : heaps.value.join(','), ''),
    ],
    read: (members) => {
      charge.value = oneOf(CHARGES, members.get('charge'), charge.value);
      find.value = members.get('find') ?? '';
      const sinceMs = numberOf(members.get('since'));
      chosen.value = Number.isFinite(sinceMs) ? { fromMs: sinceMs, toMs: Infinity } : stretchOf(members.get('span'));
      window.value = stretchOf(members.get('window'));
      const number = numberOf(members.get('run'));
      run.value = Number.isInteger(number) && number >= 1 ? number - 1 : null;
      heaps.value = idsOf(members.get('heaps'));
    },
  };
}

interface ExtentRefs {
  /** The span as it was chosen: it ends at Infinity where it goes on to the head. */
  readonly chosen: Ref<Span | null>;
  readonly window: Ref<Span | null>;
  readonly run: Ref<number | null>;
  readonly heaps: Ref<readonly number[] | null>;
}

interface LookRefs extends ExtentRefs {
  readonly charge: Ref<Charge>;
  readonly find: Ref<string>;
}

function bounds({ chosen, window, run, heaps }: ExtentRefs, durationMs: Ref<number>, isLive: Ref<boolean>) {
  return {
    /** Drops what lies outside the recording, as a link to a longer one may say. */
    fit(): void {
      if (isLive.value) return;
      if (chosen.value !== null && chosen.value.fromMs >= durationMs.value) chosen.value = null;
      if (window.value !== null && window.value.fromMs >= durationMs.value) window.value = null;
    },
    /** True when the span goes on to the head. */
    isOpen: computed(() => chosen.value?.toMs === Infinity),
    /** True when less than all of the recording is looked at. */
    isNarrowed: (): boolean => chosen.value !== null || run.value !== null || heaps.value !== null,
  };
}

/** What of a recording is looked at, and how: run, heaps, span, window of the ribbon, charge and find. */
export function lookState(recordingId: Ref<string>, durationMs: Ref<number>, isLive: Ref<boolean>) {
  const charge = ref<Charge>(rememberedCharge());
  const find = ref('');
  const chosen = shallowRef<Span | null>(null);
  const span = computed<Span | null>(() => openSpan(chosen.value, durationMs.value));
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
  function putSpan(wanted: Span | null): void {
    chosen.value =
      wanted === null || wanted.toMs - wanted.fromMs >= LEAST_SPAN_MS
        ? wanted
        : { fromMs: wanted.toMs - LEAST_SPAN_MS, toMs: wanted.toMs };
  }

  /** Keeps a window of time inside the recording; null is all of it. */
  function putWindow(wanted: Span | null): void {
    if (wanted === null) {
      window.value = null;
      return;
    }
    const length = Math.min(durationMs.value, Math.max(LEAST_WINDOW_MS, wanted.toMs - wanted.fromMs));
    const fromMs = Math.min(Math.max(0, wanted.fromMs), durationMs.value - length);
    window.value = length >= durationMs.value && !isLive.value ? null : { fromMs, toMs: fromMs + length };
  }

  const putCharge = (next: Charge): void => remember(charge, next);

  /** Forgets what belongs to one run. */
  function resetRun(): void {
    chosen.value = null;
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
    ...bounds({ chosen, window, run, heaps }, durationMs, isLive),
    address: addressOf({ charge, find, chosen, window, run, heaps }),
  };
}
