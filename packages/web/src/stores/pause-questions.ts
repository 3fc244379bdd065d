import { type ChosenKind, DEFAULT_GOAL_MS, type Span } from '@brisk-heron/core';
import { ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless, numberOf } from './address.ts';

/**
 * What is asked of the pauses. `changed` is called when other answers are wanted, of the ribbon too where `onRibbon`.
 */
export function pauseQuestions(changed: (onRibbon: boolean) => void) {
  /** Pauses picked out everywhere, by their kind. */
  const pauseKind = shallowRef<ChosenKind | null>(null);
  /** A stretch of time to look at, drawn on the ribbon. */
  const moment = shallowRef<Span | null>(null);
  const goalMs = ref(DEFAULT_GOAL_MS);
  /** Edges of the distribution's buckets; null for the usual ones. */
  const edgesMs = shallowRef<readonly number[] | null>(null);

  /** Shows a stretch of time on the ribbon, until another is shown. */
  function lookAt(stretch: Span | null): void {
    moment.value = stretch;
  }

  /** Picks out the pauses of a kind in every view, or none. */
  function pickKind(kind: ChosenKind | null): void {
    pauseKind.value = kind;
    changed(true);
  }

  function setGoal(ms: number): void {
    goalMs.value = ms;
    changed(false);
  }

  function setEdges(edges: readonly number[] | null): void {
    edgesMs.value = edges;
    changed(false);
  }

  /** Forgets what belongs to one run: its kinds and its time. */
  function resetRun(): void {
    moment.value = null;
    pauseKind.value = null;
  }

  function reset(): void {
    resetRun();
    edgesMs.value = null;
    goalMs.value = DEFAULT_GOAL_MS;
  }

  const address: AddressPart = {
    write: () => [
      ...memberUnless('kind', pauseKind.value === null ? '' : `${pauseKind.value.by}~${pauseKind.value.name}`, ''),
      ...memberUnless('goal', String(goalMs.value), String(DEFAULT_GOAL_MS)),
      ...memberUnless('edges', edgesMs.value?.join(',') ?? '', ''),
    ],
    read: (members) => {
      const [by, ...name] = (members.get('kind') ?? '').split('~');
      pauseKind.value = (by === 'label' || by === 'cause') && name.length > 0 ? { by, name: name.join('~') } : null;
      const goal = numberOf(members.get('goal'));
      goalMs.value = goal > 0 && Number.isFinite(goal) ? goal : DEFAULT_GOAL_MS;
      const edges = (members.get('edges') ?? '').split(',').map(numberOf);
      edgesMs.value = edges.every((edge, place) => edge > (edges[place - 1] ?? 0)) ? edges : null;
    },
  };

  return { address, pauseKind, moment, goalMs, edgesMs, lookAt, pickKind, setGoal, setEdges, resetRun, reset };
}
