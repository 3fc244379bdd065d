import type { CollectionsAnswer } from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { shallowRef } from 'vue';
import type { Asking } from '../../stores/question.ts';
import { useWorkspace } from '../../stores/workspace.ts';

const RATE_SLICES = 120;

/** What collecting costs, by the goal and the buckets that are set for every view. */
export const useCollections = defineStore('collections', () => {
  const answer = shallowRef<CollectionsAnswer | null>(null);

  async function ask({ measure, isCurrent }: Asking): Promise<void> {
    const { goalMs, edgesMs, pauseKind } = useWorkspace();
    const got = await measure('collections', {
      slices: RATE_SLICES,
      goalMs,
      edgesMs: edgesMs === null ? null : [...edgesMs],
      kind: pauseKind,
    });
    if (isCurrent()) answer.value = got;
  }

  function reset(): void {
    answer.value = null;
  }

  return { answer, ask, reset };
});
