import type { LedgerAim, LedgerAnswer } from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { ref, type Ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless, numberOf } from '../../stores/address.ts';
import type { Asking } from '../../stores/question.ts';
import { useWorkspace } from '../../stores/workspace.ts';

const FIRST_LINES = 30;
const GAP_MS = 100;

/**
 * What is to be in sight: what the worker finds, or a line of a known place, scrolled as little as need be from a first
 * line.
 */
type Goal = LedgerAim | { readonly kind: 'line'; readonly place: number; readonly top: number };

function addressOf(active: Ref<number>, begin: (place: number) => void): AddressPart {
  return {
    write: () => memberUnless('line', String(active.value + 1), '1'),
    read: (members) => {
      const line = numberOf(members.get('line'));
      const place = Number.isInteger(line) && line >= 1 ? line - 1 : 0;
      if (place === active.value) return;
      active.value = place;
      begin(place);
    },
  };
}

// How many lines there is room for may change until the question is asked.
function aimOf(wanted: Goal, count: number): LedgerAim {
  if (wanted.kind !== 'line') return wanted;
  return { kind: 'place', place: Math.min(wanted.place, Math.max(wanted.top, wanted.place - count + 1)) };
}

/** Where the ledger stands, and its lines. */
export const useLedger = defineStore('ledger', () => {
  const changed = (): void => void useWorkspace().refresh('view');
  const answer = shallowRef<LedgerAnswer | null>(null);
  const count = ref(FIRST_LINES);
  const gapMs = ref(GAP_MS);
  /** Place of the line that keys act on. */
  const active = ref(0);
  /** True while the lines that were gone to are awaited. */
  const isGoing = ref(false);
  let goal: Goal = { kind: 'place', place: 0 };

  async function ask({ measure, look, isCurrent }: Asking): Promise<void> {
    const asked = goal;
    const wanted = { ...look, count: count.value, gapMs: gapMs.value };
    // The lines first: runs take a pass over all objects.
    const got = await measure('ledger', { ...wanted, aim: aimOf(asked, count.value), runs: false });
    if (!isCurrent()) return;
    answer.value = { ...got, runs: answer.value?.runs ?? [] };
    if (goal === asked) settle(asked, got);
    const { runs } = await measure('ledger', { ...wanted, aim: { kind: 'place', place: got.place } });
    if (isCurrent()) answer.value = { ...got, runs };
  }

  function settle(asked: Goal, got: LedgerAnswer): void {
    isGoing.value = false;
    // A time or a collection was gone to; else the active line is what it was.
    active.value =
      asked.kind === 'time' || asked.kind === 'collection'
        ? got.aimed
        : Math.max(0, Math.min(active.value, got.total - 1));
    goal = { kind: 'place', place: got.place };
  }

  function go(next: Goal): void {
    goal = next;
    isGoing.value = true;
    changed();
  }

  /** Makes a line the active one, and brings it into sight. */
  function goTo(place: number): void {
    const shown = answer.value;
    if (shown === null) return;
    active.value = Math.max(0, Math.min(shown.total - 1, place));
    if (!isIn(shown, active.value)) go({ kind: 'line', place: active.value, top: shown.place });
  }

  function isIn(shown: LedgerAnswer, place: number): boolean {
    return place >= shown.place && place < shown.place + count.value;
  }

  function fit(lines: number): void {
    if (lines === count.value || lines < 1) return;
    const shown = answer.value;
    // With less room the active line stays in sight.
    if (shown !== null && !isGoing.value && isIn(shown, active.value))
      goal = { kind: 'line', place: active.value, top: shown.place };
    count.value = lines;
    changed();
  }

  function reset(): void {
    answer.value = null;
    isGoing.value = false;
    active.value = 0;
    goal = { kind: 'place', place: 0 };
  }

  const address = addressOf(active, (place) => {
    goal = { kind: 'line', place, top: place };
    isGoing.value = true;
  });
  return { address, answer, count, gapMs, active, isGoing, ask, go, goTo, fit, reset };
});
