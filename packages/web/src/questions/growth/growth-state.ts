import type { GrowthAnswer } from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless } from '../../stores/address.ts';
import type { Asking } from '../../stores/question.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/** What is asked of growth, and the answer. */
export const useGrowth = defineStore('growth', () => {
  const answer = shallowRef<GrowthAnswer | null>(null);
  /** Label of the marks between which rounds lie; null for those that repeat most. */
  const rounds = ref<string | null>(null);

  async function ask({ measure, look, isCurrent }: Asking): Promise<void> {
    const got = await measure('growth', { ...look, rounds: rounds.value });
    if (isCurrent()) answer.value = got;
  }

  function setRounds(label: string): void {
    rounds.value = label;
    void useWorkspace().refresh('view');
  }

  function reset(): void {
    answer.value = null;
    rounds.value = null;
  }

  const address: AddressPart = {
    write: () => memberUnless('rounds', rounds.value ?? '', ''),
    read: (members) => {
      rounds.value = members.get('rounds') ?? null;
    },
  };

  return { address, answer, rounds, ask, setRounds, reset };
});
