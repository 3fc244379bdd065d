import type { CollectionsAnswer, PauseGrouping } from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless, oneOf } from '../../stores/address.ts';
import type { Asking } from '../../stores/question.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/** What stands for a pause in its chart. */
export type PauseWhat = 'length' | 'gap';
const GROUPINGS: readonly PauseGrouping[] = ['label', 'cause'];
const WHATS: readonly PauseWhat[] = ['length', 'gap'];
const HEAP = 'heap';
const RATE_SLICES = 120;

/** What collecting costs, by the goal and the buckets that are set for every view. */
export const useCollections = defineStore('collections', () => {
  const answer = shallowRef<CollectionsAnswer | null>(null);
  const grouping = ref<PauseGrouping>('label');
  /** Name of the space whose sizes are drawn. */
  const shownSize = ref(HEAP);
  const pauseWhat = ref<PauseWhat>('length');

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
    shownSize.value = HEAP;
  }

  const address: AddressPart = {
    write: () => [
      ...memberUnless('by', grouping.value, 'label'),
      ...memberUnless('size', shownSize.value, HEAP),
      ...memberUnless('pauses', pauseWhat.value, 'length'),
    ],
    read: (members) => {
      grouping.value = oneOf(GROUPINGS, members.get('by'), 'label');
      shownSize.value = members.get('size') ?? HEAP;
      pauseWhat.value = oneOf(WHATS, members.get('pauses'), 'length');
    },
  };

  return { address, answer, grouping, shownSize, pauseWhat, ask, reset };
});
