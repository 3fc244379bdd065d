import {
  HELD_BY,
  type HeldBy,
  type HeldGroup,
  type HoldingAnswer,
  type InventoryChangesAnswer,
  type ReasonsAnswer,
} from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { ref, type Ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless, numberOf, oneOf } from '../../stores/address.ts';
import type { Asking } from '../../stores/question.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import { CancelledError } from '../../worker/client-core.ts';

/** Keys that are listed, and ways that are told of one. */
const MOST_KEYS = 200;
const MOST_WAYS = 12;

/** What an inventory is compared with: another of this recording by its number, or another recording's last. */
export interface HoldingBefore {
  readonly recording: string;
  /** Null for the last. */
  readonly at: number | null;
}

/** What can be set of it. */
export interface HoldingSettings {
  readonly by?: HeldBy;
  readonly find?: string;
  /** Which inventory; null for the last. */
  readonly at?: number | null;
  readonly before?: HoldingBefore | null;
}

interface HoldingRefs {
  readonly by: Ref<HeldBy>;
  readonly find: Ref<string>;
  readonly at: Ref<number | null>;
  readonly before: Ref<HoldingBefore | null>;
  readonly chosen: Ref<string>;
  /** Row of the object that is told with its fields; null for none. */
  readonly lookedAt: Ref<number | null>;
}

function addressOf({ by, find, at, before, chosen }: Omit<HoldingRefs, 'lookedAt'>): AddressPart {
  return {
    write: () => [
      ...memberUnless('heldby', by.value, 'type'),
      ...memberUnless('held', find.value.trim(), ''),
      ...memberUnless('inventory', numberText(at.value), ''),
      ...memberUnless('since', before.value?.recording ?? '', ''),
      ...memberUnless('sincenumber', numberText(before.value?.at ?? null), ''),
      ...memberUnless('holds', chosen.value, ''),
    ],
    read: (members) => {
      by.value = oneOf(HELD_BY, members.get('heldby'), 'type');
      find.value = members.get('held') ?? '';
      at.value = placeOf(members.get('inventory'));
      const recording = members.get('since') ?? '';
      before.value = recording === '' ? null : { recording, at: placeOf(members.get('sincenumber')) };
      chosen.value = members.get('holds') ?? '';
    },
  };
}

// Numbers count from 1 where people read them.
const numberText = (at: number | null): string => (at === null ? '' : String(at + 1));

function placeOf(member: string | undefined): number | null {
  const number = numberOf(member);
  return Number.isInteger(number) && number > 0 ? number - 1 : null;
}

interface HoldingAnswers {
  readonly answer: Ref<HoldingAnswer | null>;
  readonly detail: Ref<HeldGroup | null>;
  readonly around: Ref<HoldingAnswer['around']>;
  readonly reasons: Ref<ReasonsAnswer | null>;
  readonly changes: Ref<InventoryChangesAnswer | null>;
  /** Why the comparison has no answer, in words. */
  readonly problem: Ref<string>;
  /** No object is told under the chosen key. */
  readonly isNone: Ref<boolean>;
  /** The one object that is looked at, with its fields. */
  readonly object: Ref<HoldingAnswer['object']>;
}

/** What is asked of an inventory beside its number. */
interface Wanted {
  readonly at: number | null;
  readonly charge: HeldBy;
  readonly find: string;
}

// What changed since another inventory; null where none is chosen.
async function askChanges(
  { pair, side, openBeside, isCurrent }: Asking,
  wanted: Wanted,
  since: HoldingBefore | null,
  { changes, problem }: HoldingAnswers,
): Promise<void> {
  problem.value = '';
  if (since === null) {
    changes.value = null;
    return;
  }
  try {
    const isSame = since.recording === side.recording;
    if (!isSame) await openBeside(since.recording);
    const sides = [isSame ? side : { recording: since.recording }, side] as const;
    const { at: atB, ...look } = wanted;
    const got = await pair(sides, 'inventoryChanges', { ...look, most: MOST_KEYS, atA: since.at, atB });
    if (isCurrent()) changes.value = got;
  } catch (error) {
    if (error instanceof CancelledError) throw error;
    changes.value = null;
    problem.value = error instanceof Error ? error.message : String(error);
  }
}

// Asks for what the view shows. While what an answer was asked with is the same, so is the answer.
function asker({ by, find, at, before, chosen, lookedAt }: HoldingRefs, answers: HoldingAnswers) {
  const { answer, detail, around, reasons, isNone, object } = answers;
  const asked = { list: '', changes: '', reasons: '', one: '' };

  // The list first, then what is told of one key, then what is usual.
  async function ask(asking: Asking): Promise<void> {
    const { measure, side, isCurrent } = asking;
    const { inventory } = useWorkspace().overview ?? {};
    const ofInventory = JSON.stringify([side.recording, side.run, side.heaps, at.value, inventory]);
    const wanted = { at: at.value, charge: by.value, find: find.value.trim() };
    const list = JSON.stringify([ofInventory, wanted]);
    if (list !== asked.list || answer.value === null) {
      const got = await measure('holding', { ...wanted, most: MOST_KEYS, ways: 0 });
      if (!isCurrent()) return;
      answer.value = got;
      asked.list = list;
    }
    const compared = JSON.stringify([list, before.value]);
    if (compared !== asked.changes) {
      await askChanges(asking, wanted, before.value, answers);
      if (!isCurrent()) return;
      asked.changes = compared;
    }
    await askOne(asking, wanted, `${list} ${chosen.value}`);
    if (isCurrent()) await askObject(asking, wanted);
    if (!isCurrent() || asked.reasons === ofInventory) return;
    const told = await measure('reasons', { at: at.value });
    if (!isCurrent()) return;
    reasons.value = told;
    asked.reasons = ofInventory;
  }

  async function askOne({ measure, isCurrent }: Asking, wanted: Wanted, asking: string): Promise<void> {
    if (asked.one !== asking) isNone.value = false;
    if (chosen.value === '') detail.value = around.value = null;
    if (chosen.value === '' || (asked.one === asking && (detail.value !== null || isNone.value))) return;
    const ofKey = { ...wanted, key: chosen.value };
    // Why they stay first, then what stands around them.
    const one = await measure('holding', { ...ofKey, ways: MOST_WAYS, around: false });
    if (!isCurrent()) return;
    detail.value = one.groups[0] ?? null;
    isNone.value = detail.value === null;
    asked.one = asking;
    const { around: stands } = await measure('holding', { ...ofKey, ways: 0 });
    if (isCurrent()) around.value = stands;
  }

  async function askObject({ measure, isCurrent }: Asking, wanted: Wanted): Promise<void> {
    if (lookedAt.value === null || chosen.value === '') {
      object.value = null;
      return;
    }
    if (object.value?.self.object === lookedAt.value) return;
    const asked = { key: chosen.value, ways: 0, around: false, object: lookedAt.value };
    const got = await measure('holding', { ...wanted, ...asked });
    if (isCurrent()) object.value = got.object;
  }

  const forget = (): void => {
    asked.list = asked.changes = asked.reasons = asked.one = '';
  };
  return { ask, forget };
}

/** What is asked of an inventory, and the answers. */
export const useHolding = defineStore('holding', () => {
  const by = ref<HeldBy>('type');
  /** Which objects: words of types, sizes, fields. */
  const find = ref('');
  const at = ref<number | null>(null);
  const before = shallowRef<HoldingBefore | null>(null);
  /** The key whose ways are told; '' for none. */
  const chosen = ref('');
  const lookedAt = ref<number | null>(null);
  const refs = { by, find, at, before, chosen, lookedAt };
  const answer = shallowRef<HoldingAnswer | null>(null);
  const detail = shallowRef<HeldGroup | null>(null);
  const around = shallowRef<HoldingAnswer['around']>(null);
  const reasons = shallowRef<ReasonsAnswer | null>(null);
  const changes = shallowRef<InventoryChangesAnswer | null>(null);
  const problem = ref('');
  const isNone = ref(false);
  const object = shallowRef<HoldingAnswer['object']>(null);
  const answers = { answer, detail, around, reasons, changes, problem, isNone, object };
  const { ask, forget } = asker(refs, answers);
  const changed = (): void => void useWorkspace().refresh('view');

  function set(given: HoldingSettings): void {
    // Keys of one kind are none of another.
    if (given.by !== undefined && given.by !== by.value) chosen.value = '';
    by.value = given.by ?? by.value;
    find.value = given.find ?? find.value;
    if (given.before !== undefined) changes.value = null;
    if (given.at !== undefined) {
      at.value = given.at;
      // Rows of one inventory are none of another.
      object.value = lookedAt.value = null;
    }
    if (given.before !== undefined) before.value = given.before;
    changed();
  }

  /** Tells why the objects of a key stay; of the one that is told already, nothing more. */
  function choose(key: string): void {
    chosen.value = key === chosen.value ? '' : key;
    detail.value = around.value = lookedAt.value = null;
    changed();
  }

  /** Tells one object of the inventory with its fields; null for none. */
  function lookAt(row: number | null): void {
    lookedAt.value = row;
    changed();
  }

  /** Shows why the objects of a key stay, from elsewhere. */
  function open(key: string, given: HoldingSettings): void {
    chosen.value = key;
    detail.value = around.value = lookedAt.value = null;
    by.value = given.by ?? by.value;
    find.value = given.find ?? '';
    useWorkspace().show('holding');
  }

  function reset(): void {
    find.value = chosen.value = problem.value = '';
    at.value = before.value = null;
    answer.value = detail.value = around.value = reasons.value = changes.value = null;
    object.value = lookedAt.value = null;
    forget();
  }

  return { ...refs, ...answers, address: addressOf(refs), ask, set, choose, lookAt, open, reset };
});
