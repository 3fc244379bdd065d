import type {
  ChurnAnswer,
  Counted,
  Fate,
  PathDirection,
  PathsAnswer,
  Recursion,
  SitesAnswer,
  SizesAnswer,
} from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import type { Asking } from '../../stores/question.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/**
 * How the view "Who allocates?" answers: keys in a table, call paths as an outline or as a picture, sizes of objects,
 * churn.
 */
export type SitesMode = 'keys' | 'paths' | 'picture' | 'sizes' | 'churn';
export type Per = 'total' | 'second' | 'round';

/** What is asked of who allocates, and the answers. */
export const useSites = defineStore('sites', () => {
  const changed = (): void => void useWorkspace().refresh('view');
  const mode = ref<SitesMode>('keys');
  const fate = ref<Fate>('all');
  const counted = ref<Counted>('bytes');
  const per = ref<Per>('total');
  const direction = ref<PathDirection>('entry');
  const recursion = ref<Recursion>('folded');
  const open = shallowRef<readonly string[]>(['']);
  const focus = ref('');
  const sites = shallowRef<SitesAnswer | null>(null);
  const paths = shallowRef<PathsAnswer | null>(null);
  const sizes = shallowRef<SizesAnswer | null>(null);
  const churn = shallowRef<ChurnAnswer | null>(null);
  /** Label whose rounds figures are per; '' for that which repeats most. */
  const round = ref('');
  /** Words that are picked out in the picture. */
  const picked = ref('');
  let heaviestFrom: string | null = '';

  /** Asks for what the mode shows. */
  async function ask({ measure, look, isCurrent }: Asking): Promise<void> {
    if (mode.value === 'sizes') {
      const answer = await measure('sizes', look);
      if (isCurrent()) sizes.value = answer;
    } else if (mode.value === 'churn') {
      const answer = await measure('churn', look);
      if (isCurrent()) churn.value = answer;
    } else if (mode.value !== 'keys') {
      const [askedOpen, askedHeaviest] = [open.value, heaviestFrom];
      const answer = await measure('paths', {
        ...look,
        fate: fate.value,
        counted: counted.value,
        direction: direction.value,
        recursion: recursion.value,
        open: [...askedOpen],
        heaviestFrom: askedHeaviest,
        focus: mode.value === 'picture' ? focus.value : null,
      });
      if (!isCurrent()) return;
      paths.value = answer;
      // What was opened, closed or begun anew meanwhile holds; it is asked for next.
      if (open.value === askedOpen) open.value = answer.open;
      if (heaviestFrom === askedHeaviest) heaviestFrom = null;
    }
    // The line above every mode tells the sums, and rates are per the time that was seen.
    const answer = await measure('sites', {
      ...look,
      fate: fate.value,
      counted: counted.value,
      round: mode.value === 'keys' && per.value === 'round' ? round.value : null,
    });
    if (isCurrent()) sites.value = answer;
  }

  /** Sets one of the questions; another direction, or recursion told otherwise, begins a tree anew. */
  function set(given: {
    mode?: SitesMode;
    fate?: Fate;
    counted?: Counted;
    per?: Per;
    round?: string;
    direction?: PathDirection;
    recursion?: Recursion;
  }): void {
    mode.value = given.mode ?? mode.value;
    fate.value = given.fate ?? fate.value;
    counted.value = given.counted ?? counted.value;
    per.value = given.per ?? per.value;
    round.value = given.round ?? round.value;
    const next = { direction: given.direction ?? direction.value, recursion: given.recursion ?? recursion.value };
    if (next.direction !== direction.value || next.recursion !== recursion.value) {
      direction.value = next.direction;
      recursion.value = next.recursion;
      open.value = [''];
      focus.value = '';
      heaviestFrom = '';
    }
    changed();
  }

  function toggle(id: string): void {
    open.value = open.value.includes(id)
      ? open.value.filter((each) => each !== id && !each.startsWith(`${id},`))
      : [...open.value, id];
    changed();
  }

  function openHeaviest(id: string): void {
    heaviestFrom = id;
    changed();
  }

  /** Hangs the picture under a node. */
  function focusOn(id: string): void {
    focus.value = id;
    changed();
  }

  function reset(): void {
    open.value = [''];
    focus.value = '';
    heaviestFrom = '';
    sites.value = paths.value = sizes.value = churn.value = null;
    per.value = per.value === 'round' ? 'total' : per.value;
    round.value = '';
    picked.value = '';
  }

  return {
    mode,
    fate,
    counted,
    per,
    direction,
    recursion,
    open,
    focus,
    sites,
    paths,
    sizes,
    churn,
    round,
    picked,
    ask,
    set,
    toggle,
    openHeaviest,
    focusOn,
    reset,
  };
});
