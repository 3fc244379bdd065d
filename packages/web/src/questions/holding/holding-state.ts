import { HELD_BY, type HeldBy, type HeldGroup, type HoldingAnswer } from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless, oneOf } from '../../stores/address.ts';
import type { Asking } from '../../stores/question.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/** Keys that are listed, and ways that are told of one. */
const MOST_KEYS = 200;
const MOST_WAYS = 12;

/** What is asked of an inventory, and the answers. */
export const useHolding = defineStore('holding', () => {
  const by = ref<HeldBy>('type');
  /** Which objects: words of types, sizes, fields. */
  const find = ref('');
  /** The key whose ways are told; '' for none. */
  const chosen = ref('');
  const answer = shallowRef<HoldingAnswer | null>(null);
  const detail = shallowRef<HeldGroup | null>(null);
  const around = shallowRef<HoldingAnswer['around']>(null);

  const address: AddressPart = {
    write: () => [
      ...memberUnless('heldby', by.value, 'type'),
      ...memberUnless('held', find.value.trim(), ''),
      ...memberUnless('holds', chosen.value, ''),
    ],
    read: (members) => {
      by.value = oneOf(HELD_BY, members.get('heldby'), 'type');
      find.value = members.get('held') ?? '';
      chosen.value = members.get('holds') ?? '';
    },
  };

  /** What the list was asked with: while it is the same, so is the list. */
  let listed = '';

  // The list first, then what is told of one key.
  async function ask({ measure, side, isCurrent }: Asking): Promise<void> {
    const asked = { charge: by.value, find: find.value.trim() };
    const asking = JSON.stringify([side.recording, side.run, asked]);
    if (asking !== listed || answer.value === null) {
      const got = await measure('holding', { ...asked, most: MOST_KEYS, ways: 0 });
      if (!isCurrent()) return;
      answer.value = got;
      listed = asking;
    }
    if (chosen.value === '') {
      detail.value = around.value = null;
      return;
    }
    const one = await measure('holding', { ...asked, key: chosen.value, ways: MOST_WAYS });
    if (!isCurrent()) return;
    detail.value = one.groups[0] ?? null;
    around.value = one.around;
  }

  const changed = (): void => void useWorkspace().refresh('view');

  function set(given: { readonly by?: HeldBy; readonly find?: string }): void {
    by.value = given.by ?? by.value;
    find.value = given.find ?? find.value;
    changed();
  }

  /** Tells why the objects of a key stay; of the one that is told already, nothing more. */
  function choose(key: string): void {
    chosen.value = key === chosen.value ? '' : key;
    detail.value = around.value = null;
    changed();
  }

  function reset(): void {
    find.value = chosen.value = '';
    answer.value = detail.value = around.value = null;
    listed = '';
  }

  return { by, find, chosen, answer, detail, around, address, ask, set, choose, reset };
});
