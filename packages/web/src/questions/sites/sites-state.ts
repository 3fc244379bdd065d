import type { ChurnAnswer, Counted, Fate, PathDirection, Recursion, SitesAnswer, SizesAnswer } from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { ref, type Ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless, oneOf } from '../../stores/address.ts';
import type { Asking } from '../../stores/question.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import { type TreeState, treeState } from './tree-state.ts';

/**
 * How the view "Who allocates?" answers: keys in a table, call paths as an outline or as a picture, sizes of objects,
 * churn.
 */
export type SitesMode = 'keys' | 'paths' | 'picture' | 'sizes' | 'churn';
/** What figures are per. */
export type Per = 'total' | 'second' | 'round';

/** What can be set of it. */
export interface SitesSettings {
  readonly mode?: SitesMode;
  readonly fate?: Fate;
  readonly counted?: Counted;
  readonly per?: Per;
  readonly round?: string;
  readonly direction?: PathDirection;
  readonly recursion?: Recursion;
}

/** Slots of the small figure of what is kept since an instant. */
const SLOTS = 24;
const MODES: readonly SitesMode[] = ['keys', 'paths', 'picture', 'sizes', 'churn'];
const FATES: readonly Fate[] = ['all', 'kept', 'died'];
const COUNTED: readonly Counted[] = ['bytes', 'objects'];
const PERS: readonly Per[] = ['total', 'second', 'round'];
const DIRECTIONS: readonly PathDirection[] = ['entry', 'allocation'];
const RECURSIONS: readonly Recursion[] = ['folded', 'unfolded'];

interface SitesRefs {
  readonly mode: Ref<SitesMode>;
  readonly fate: Ref<Fate>;
  readonly counted: Ref<Counted>;
  readonly per: Ref<Per>;
  readonly round: Ref<string>;
  readonly picked: Ref<string>;
}

function addressOf({ mode, fate, counted, per, round, picked }: SitesRefs, tree: TreeState): AddressPart {
  return {
    write: () => [
      ...memberUnless('mode', mode.value, 'keys'),
      ...memberUnless('fate', fate.value, 'all'),
      ...memberUnless('count', counted.value, 'bytes'),
      ...memberUnless('per', per.value, 'total'),
      ...memberUnless('round', round.value, ''),
      ...memberUnless('way', tree.direction.value, 'entry'),
      ...memberUnless('recursion', tree.recursion.value, 'folded'),
      ...memberUnless('under', tree.focus.value, ''),
      ...memberUnless('pick', picked.value, ''),
    ],
    read: (members) => {
      mode.value = oneOf(MODES, members.get('mode'), 'keys');
      fate.value = oneOf(FATES, members.get('fate'), 'all');
      counted.value = oneOf(COUNTED, members.get('count'), 'bytes');
      per.value = oneOf(PERS, members.get('per'), 'total');
      round.value = members.get('round') ?? '';
      picked.value = members.get('pick') ?? '';
      tree.turn(oneOf(DIRECTIONS, members.get('way'), 'entry'), oneOf(RECURSIONS, members.get('recursion'), 'folded'));
      tree.focus.value = members.get('under') ?? '';
    },
  };
}

/** What is asked of who allocates, and the answers. */
export const useSites = defineStore('sites', () => {
  const changed = (): void => void useWorkspace().refresh('view');
  const mode = ref<SitesMode>('keys');
  const fate = ref<Fate>('all');
  const counted = ref<Counted>('bytes');
  const per = ref<Per>('total');
  const tree = treeState(changed);
  const sites = shallowRef<SitesAnswer | null>(null);
  const sizes = shallowRef<SizesAnswer | null>(null);
  const churn = shallowRef<ChurnAnswer | null>(null);
  /** Label whose rounds figures are per; '' for that which repeats most. */
  const round = ref('');
  /** Words that are picked out in the picture. */
  const picked = ref('');

  /** Asks for what the mode shows. */
  async function ask(asking: Asking): Promise<void> {
    const { measure, look, isCurrent } = asking;
    const what = { fate: fate.value, counted: counted.value };
    if (mode.value === 'sizes') {
      const answer = await measure('sizes', look);
      if (isCurrent()) sizes.value = answer;
    } else if (mode.value === 'churn') {
      const answer = await measure('churn', look);
      if (isCurrent()) churn.value = answer;
    } else if (mode.value !== 'keys') await tree.ask(asking, { ...what, withPicture: mode.value === 'picture' });
    // The line above every mode tells the sums, and rates are per the time that was seen.
    const answer = await measure('sites', {
      ...look,
      ...what,
      round: mode.value === 'keys' && per.value === 'round' ? round.value : null,
      // What is watched from an instant on is shown as it comes.
      slots: mode.value === 'keys' && useWorkspace().isOpen ? SLOTS : 0,
    });
    if (isCurrent()) sites.value = answer;
  }

  /** Sets one of the questions; another direction, or recursion told otherwise, begins a tree anew. */
  function set(given: SitesSettings): void {
    mode.value = given.mode ?? mode.value;
    fate.value = given.fate ?? fate.value;
    counted.value = given.counted ?? counted.value;
    per.value = given.per ?? per.value;
    round.value = given.round ?? round.value;
    tree.turn(given.direction ?? tree.direction.value, given.recursion ?? tree.recursion.value);
    changed();
  }

  function reset(): void {
    tree.reset();
    sites.value = sizes.value = churn.value = null;
    per.value = per.value === 'round' ? 'total' : per.value;
    round.value = '';
    picked.value = '';
  }

  const { direction, recursion, open, focus, paths, toggle, openHeaviest, focusOn } = tree;
  const address = addressOf({ mode, fate, counted, per, round, picked }, tree);
  return {
    address,
    ...{ mode, fate, counted, per, round, picked, sites, sizes, churn, ask, set, reset },
    ...{ direction, recursion, open, focus, paths, toggle, openHeaviest, focusOn },
  };
});
