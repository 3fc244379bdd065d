import type { Charge, CollectionDetail, KeyDetail, MomentAnswer } from '@brisk-heron/core';
import { ref, shallowRef } from 'vue';
import type { CollectionLines } from '../worker/collection-lines.ts';
import type { Asking } from './question.ts';

/** What the drawer shows: a charge key, a pause, or what lived at an instant. */
export type Selection =
  | { readonly kind: 'key'; readonly charge: Charge; readonly key: string }
  | { readonly kind: 'pause'; readonly row: number }
  | { readonly kind: 'moment'; readonly tMs: number; readonly band: number | null; readonly againstMs: number | null }
  | null;

/** What is selected, and what the drawer tells of it. */
export function selectionState() {
  const selection = shallowRef<Selection>(null);
  const detail = shallowRef<KeyDetail | null>(null);
  /** True when of the key that is selected nothing is in the span or let through by the find. */
  const isGone = ref(false);
  const content = shallowRef<MomentAnswer | null>(null);
  const collection = shallowRef<CollectionDetail | null>(null);
  const lines = shallowRef<CollectionLines | null>(null);

  function put(chosen: Selection): void {
    selection.value = chosen;
    isGone.value = false;
    if (chosen?.kind !== 'pause') lines.value = null;
  }

  /** Asks for what the drawer shows; `linesOf` reads a pause's lines out of the source. */
  async function ask(
    { measure, look, isCurrent }: Asking,
    linesOf: (row: number) => Promise<CollectionLines>,
  ): Promise<void> {
    const chosen = selection.value;
    if (chosen === null) return;
    if (chosen.kind === 'key') {
      const answer = await measure('key', { ...look, charge: chosen.charge, key: chosen.key });
      if (!isCurrent()) return;
      detail.value = answer;
      isGone.value = answer === null;
    } else if (chosen.kind === 'moment') {
      const { tMs, band, againstMs } = chosen;
      const answer = await measure('moment', { ...look, tMs, band, againstMs });
      if (isCurrent()) content.value = answer;
    } else {
      const answer = await measure('collection', { row: chosen.row });
      if (!isCurrent()) return;
      collection.value = answer;
      const told = await linesOf(chosen.row);
      if (isCurrent() && collection.value === answer) lines.value = told;
    }
  }

  function reset(): void {
    put(null);
    for (const answer of [detail, content, collection]) answer.value = null;
  }

  return { selection, detail, isGone, content, collection, lines, put, ask, reset };
}
