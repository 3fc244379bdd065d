import type { Counted, Fate, PathDirection, PathsAnswer, Recursion } from '@brisk-heron/core';
import { ref, shallowRef } from 'vue';
import type { Asking } from '../../stores/question.ts';

/** What is summed in the tree, and whether it is drawn as a picture too. */
export interface TreeContent {
  readonly fate: Fate;
  readonly counted: Counted;
  readonly withPicture: boolean;
}

/** The tree of call paths: which way it runs, what of it is open, and the answer. */
export function treeState(changed: () => void) {
  const direction = ref<PathDirection>('entry');
  const recursion = ref<Recursion>('folded');
  const open = shallowRef<readonly string[]>(['']);
  /** Node under which the picture hangs. */
  const focus = ref('');
  const paths = shallowRef<PathsAnswer | null>(null);
  let heaviestFrom: string | null = '';

  async function ask({ measure, look, isCurrent }: Asking, { fate, counted, withPicture }: TreeContent): Promise<void> {
    const [askedOpen, askedHeaviest] = [open.value, heaviestFrom];
    const answer = await measure('paths', {
      ...look,
      fate,
      counted,
      direction: direction.value,
      recursion: recursion.value,
      open: [...askedOpen],
      heaviestFrom: askedHeaviest,
      focus: withPicture ? focus.value : null,
    });
    if (!isCurrent()) return;
    paths.value = answer;
    // What was opened, closed or begun anew meanwhile holds; it is asked for next.
    if (open.value === askedOpen) open.value = answer.open;
    if (heaviestFrom === askedHeaviest) heaviestFrom = null;
  }

  /** Tells recursion or runs the other way: the tree begins anew then. */
  function turn(way: PathDirection, told: Recursion): void {
    if (way === direction.value && told === recursion.value) return;
    direction.value = way;
    recursion.value = told;
    begin();
  }

  function begin(): void {
    open.value = [''];
    focus.value = '';
    heaviestFrom = '';
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
    begin();
    paths.value = null;
  }

  return { direction, recursion, open, focus, paths, ask, turn, toggle, openHeaviest, focusOn, reset };
}

/** The tree of call paths and what is asked of it. */
export type TreeState = ReturnType<typeof treeState>;
