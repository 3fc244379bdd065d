import type { Fate, PathChangesAnswer, SideAsk } from '@brisk-heron/core';
import { ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless, oneOf } from '../../stores/address.ts';
import type { Asking } from '../../stores/question.ts';

/** What the tree begins with. */
export type PairDirection = 'entry' | 'allocation';

const DIRECTIONS: readonly PairDirection[] = ['entry', 'allocation'];
const FATES: readonly Fate[] = ['all', 'kept', 'died'];

/** The tree of both sides' call paths: which way it runs, what of it is open, and the answer. */
export function pairTreeState(changed: () => void) {
  const direction = ref<PairDirection>('entry');
  const fate = ref<Fate>('all');
  const open = shallowRef<readonly string[]>(['']);
  /** Node under which the picture hangs. */
  const focus = ref('');
  const paths = shallowRef<PathChangesAnswer | null>(null);
  let growthFrom: string | null = '';

  async function ask(
    { pair, look, isCurrent }: Asking,
    sides: readonly [SideAsk, SideAsk],
    withPicture: boolean,
  ): Promise<void> {
    const [askedOpen, askedGrowth] = [open.value, growthFrom];
    const answer = await pair(sides, 'pathChanges', {
      find: look.find,
      fate: fate.value,
      direction: direction.value,
      open: [...askedOpen],
      growthFrom: askedGrowth,
      focus: withPicture ? focus.value : null,
    });
    if (!isCurrent()) return;
    paths.value = answer;
    // What was opened or closed meanwhile holds; it is asked for next.
    if (open.value === askedOpen) open.value = answer.open;
    if (growthFrom === askedGrowth) growthFrom = null;
  }

  function begin(): void {
    open.value = [''];
    focus.value = '';
    growthFrom = '';
    paths.value = null;
  }

  /** Another direction or fate is another tree. */
  function grow(way: PairDirection, became: Fate): void {
    direction.value = way;
    fate.value = became;
    begin();
    changed();
  }

  function toggle(id: string): void {
    open.value = open.value.includes(id)
      ? open.value.filter((each) => each !== id && !each.startsWith(`${id},`))
      : [...open.value, id];
    changed();
  }

  /** Opens the way of the greatest increase below a node. */
  function openGrowth(id: string): void {
    growthFrom = id;
    changed();
  }

  function focusOn(id: string): void {
    focus.value = id;
    changed();
  }

  const address: AddressPart = {
    write: () => [...memberUnless('way', direction.value, 'entry'), ...memberUnless('fate', fate.value, 'all')],
    read: (members) => {
      direction.value = oneOf(DIRECTIONS, members.get('way'), 'entry');
      fate.value = oneOf(FATES, members.get('fate'), 'all');
      begin();
    },
  };
  return { address, direction, fate, open, focus, paths, ask, begin, grow, toggle, openGrowth, focusOn };
}
