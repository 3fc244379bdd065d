import type { GrowthAnswer } from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless } from '../../stores/address.ts';
import type { Asking } from '../../stores/question.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/** An answer that takes no longer than this comes as one. */
const SHORT_MS = 80;

/** What is asked of growth, and the answer. */
export const useGrowth = defineStore('growth', () => {
  const answer = shallowRef<GrowthAnswer | null>(null);
  /** What stands beside the rows is still that of before. */
  const waits = ref(false);
  let tookMs = 0;
  /** Label of the marks between which rounds lie; null for those that repeat most. */
  const rounds = ref<string | null>(null);

  // Where the last answer took long, the next comes in two: what stands beside the rows is looked at after them.
  async function ask({ measure, look, later, isCurrent }: Asking): Promise<void> {
    const wanted = { ...look, rounds: rounds.value };
    const before = tookMs > SHORT_MS ? answer.value : null;
    const began = performance.now();
    const got = await measure('growth', { ...wanted, brief: before !== null });
    if (!isCurrent()) return;
    const briefMs = performance.now() - began;
    answer.value = before === null ? got : { ...got, ...besideIn(before) };
    waits.value = before !== null;
    if (before === null) tookMs = briefMs;
    else
      later(async () => {
        const resumed = performance.now();
        const whole = await measure('growth', wanted);
        if (!isCurrent()) return;
        tookMs = briefMs + performance.now() - resumed;
        answer.value = { ...got, ...besideIn(whole) };
        waits.value = false;
      });
  }

  function setRounds(label: string): void {
    rounds.value = label;
    void useWorkspace().refresh('view');
  }

  function reset(): void {
    answer.value = null;
    waits.value = false;
    tookMs = 0;
    rounds.value = null;
  }

  const address: AddressPart = {
    write: () => memberUnless('rounds', rounds.value ?? '', ''),
    read: (members) => {
      rounds.value = members.get('rounds') ?? null;
    },
  };

  return { address, answer, waits, rounds, ask, setRounds, reset };
});

/** What of an answer stands beside its rows. */
function besideIn({ types, together, peak, usedPeak, run }: GrowthAnswer) {
  return { types, together, peak, usedPeak, run };
}
