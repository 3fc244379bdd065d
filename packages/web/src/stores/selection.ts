import { type Charge, CHARGES, type CollectionDetail, type KeyDetail, type MomentAnswer } from '@brisk-heron/core';
import { ref, type Ref, shallowRef } from 'vue';
import type { CollectionLines } from '../worker/collection-lines.ts';
import { type AddressPart, instantText, numberOf } from './address.ts';
import type { Asking } from './question.ts';

/** What the drawer shows: a charge key, a pause, or what lived at an instant. */
export type Selection =
  | { readonly kind: 'key'; readonly charge: Charge; readonly key: string }
  | { readonly kind: 'pause'; readonly row: number }
  | { readonly kind: 'moment'; readonly tMs: number; readonly band: number | null; readonly againstMs: number | null }
  | null;

// `key~site~NAME`, `pause~17`, `moment~1200~band~against`.
function selectionText(selection: Selection): string {
  switch (selection?.kind) {
    case 'key':
      return `key~${selection.charge}~${selection.key}`;
    case 'pause':
      return `pause~${selection.row}`;
    case 'moment': {
      const { tMs, band, againstMs } = selection;
      return `moment~${instantText(tMs)}~${band ?? ''}~${againstMs === null ? '' : instantText(againstMs)}`;
    }
    default:
      return '';
  }
}

function selectionOf(written: string): Selection {
  const [kind, first = '', ...rest] = written.split('~');
  const [number, second, third] = [numberOf(first), numberOf(rest[0]), numberOf(rest[1])];
  if (kind === 'key') {
    const charge = CHARGES.find((each) => each === first);
    return charge === undefined || rest.length === 0 ? null : { kind, charge, key: rest.join('~') };
  }
  if (kind === 'pause') return Number.isInteger(number) && number >= 0 ? { kind, row: number } : null;
  if (kind !== 'moment' || !Number.isFinite(number)) return null;
  const band = Number.isInteger(second) && second >= 0 ? second : null;
  return { kind, tMs: number, band, againstMs: Number.isFinite(third) ? third : null };
}

function addressOf(selection: Ref<Selection>, put: (chosen: Selection) => void): AddressPart {
  return {
    write: () => (selection.value === null ? [] : [['chosen', selectionText(selection.value)]]),
    read: (members) => {
      const written = members.get('chosen') ?? '';
      if (written !== selectionText(selection.value)) put(selectionOf(written));
    },
  };
}

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

  const address = addressOf(selection, put);
  return { selection, detail, isGone, content, collection, lines, put, ask, reset, address };
}
