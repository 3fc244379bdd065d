import type { ComparedSide, SideAsk } from '@brisk-heron/core';
import { formatClock } from '@brisk-heron/core';
import {
  type AddressMember,
  type AddressMembers,
  instantText,
  memberUnless,
  numberOf,
  stretchOf,
  stretchText,
} from '../../stores/address.ts';

/** What of a recording a side is: which run, and what of its time. */
export type SidePart = Required<Pick<SideAsk, 'run' | 'extent'>>;

/** All of a recording's last run. */
export const WHOLE: SidePart = { run: null, extent: { kind: 'whole' } };

/** The part as members of an address. */
export function partMembers({ run, extent }: SidePart): AddressMember[] {
  return [...memberUnless('otherrun', run === null ? '' : String(run! + 1), ''), ...extentMembers(extent)];
}

function extentMembers(extent: SidePart['extent']): AddressMember[] {
  switch (extent!.kind) {
    case 'whole':
      return [];
    case 'span':
      return [['otherspan', stretchText(extent!)]];
    case 'moment':
      return [['othermoment', instantText(extent!.tMs)]];
    case 'round':
      return [['otherround', `${extent!.number}:${extent!.label}`]];
  }
}

/** The part that an address tells of; what it tells wrong is left out. */
export function partOf(members: AddressMembers): SidePart {
  const run = numberOf(members.get('otherrun'));
  return { run: Number.isInteger(run) && run >= 1 ? run - 1 : null, extent: extentOf(members) };
}

function extentOf(members: AddressMembers): SidePart['extent'] {
  const span = stretchOf(members.get('otherspan'));
  if (span !== null) return { kind: 'span', ...span };
  const tMs = numberOf(members.get('othermoment'));
  if (Number.isFinite(tMs)) return { kind: 'moment', tMs };
  const [, number, label] = /^(\d+):(.+)$/.exec(members.get('otherround') ?? '') ?? [];
  return label === undefined || Number(number) < 1
    ? { kind: 'whole' }
    : { kind: 'round', label, number: Number(number) };
}

/** A part that can be chosen, by the text that stands for it in an address. */
export interface PartChoice {
  readonly id: string;
  readonly words: string;
  readonly part: SidePart;
}

/** So many rounds are offered: the first and the last ones. */
const MOST_ROUNDS = 24;

/** What of a side's recording can be chosen: all, its runs, its rounds, kept moments; and what is chosen now. */
export function partChoices(
  side: Pick<ComparedSide, 'rounds' | 'runs'>,
  now: SidePart,
  moments: readonly { readonly tMs: number; readonly name: string }[],
): PartChoice[] {
  const parts: SidePart[] = [WHOLE];
  if (side.runs > 1) for (let run = 0; run < side.runs - 1; run++) parts.push({ ...WHOLE, run });
  for (const { tMs } of moments) parts.push({ ...WHOLE, extent: { kind: 'moment', tMs } });
  for (const { label, times } of side.rounds)
    for (let number = 1; number <= times; number++)
      if (number <= MOST_ROUNDS / 2 || number > times - MOST_ROUNDS / 2)
        parts.push({ ...WHOLE, extent: { kind: 'round', label, number } });
  const named = new Map(moments.map(({ tMs, name }) => [tMs, name]));
  const choices = [...parts, now].map((part) => ({ id: idOf(part), words: wordsOf(part, side.runs, named), part }));
  return choices.filter(({ id }, at) => choices.findIndex((each) => each.id === id) === at);
}

/** What stands for a part in a list. */
export function idOf(part: SidePart): string {
  return partMembers(part)
    .map((member) => member.join('='))
    .join(' ');
}

function wordsOf({ run, extent }: SidePart, runs: number, named: ReadonlyMap<number, string>): string {
  const ofRun = run === null ? '' : ` of run ${run! + 1}`;
  switch (extent!.kind) {
    case 'whole':
      if (run !== null) return `run ${run! + 1}`;
      return runs > 1 ? `run ${runs}, the last` : 'all of it';
    case 'span':
      return `${formatClock(extent!.fromMs, true)} – ${formatClock(extent!.toMs, true)}${ofRun}`;
    case 'moment':
      return `until ${named.get(extent!.tMs) ?? formatClock(extent!.tMs, true)}${ofRun}`;
    case 'round':
      return `round ${extent!.number} of “${extent!.label}”${ofRun}`;
  }
}
