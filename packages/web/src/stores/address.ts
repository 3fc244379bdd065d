import type { Span } from '@brisk-heron/core';

/** Members of an address behind its `?`, by name. */
export type AddressMembers = ReadonlyMap<string, string>;

/** One state's share of the address: what it writes is what it reads. Members that are the usual are not written. */
export interface AddressPart {
  write(): readonly AddressMember[];
  /** Takes what is written; a member that is missing or makes no sense is the usual. */
  read(members: AddressMembers): void;
}

/** Name and value of one member. */
export type AddressMember = readonly [name: string, value: string];

/** A member that is left out when it is what it usually is. */
export function memberUnless(name: string, value: string, usual: string): AddressMember[] {
  return value === usual ? [] : [[name, value]];
}

/** Of the values that are allowed, the one that is written; `usual` for any other. */
export function oneOf<T extends string>(allowed: readonly T[], written: string | undefined, usual: T): T {
  return allowed.find((each) => each === written) ?? usual;
}

/** A number that is written, NaN for none or nonsense. */
export function numberOf(written: string | undefined): number {
  return written === undefined || written.trim() === '' ? NaN : Number(written);
}

// A microsecond is more than any source tells.
const ms = (value: number): string => String(Math.round(value * 1000) / 1000);

/** A stretch of time as it stands in the address: `1200~5400.5`, milliseconds from the recording's start. */
export function stretchText({ fromMs, toMs }: Span): string {
  return `${ms(fromMs)}~${ms(toMs)}`;
}

/** An instant as it stands in the address. */
export const instantText = ms;

/** The stretch of time that is written; null for none, or one that does not end after it begins. */
export function stretchOf(written: string | undefined): Span | null {
  const [fromMs, toMs, ...more] = (written ?? '').split('~').map(numberOf);
  return more.length === 0 && fromMs! < toMs! && Number.isFinite(toMs! - fromMs!)
    ? { fromMs: fromMs!, toMs: toMs! }
    : null;
}

/** What follows from a change of the address: a step that *back* undoes, or none. */
export type AddressStep = 'push' | 'replace';

/** Members that change by degrees: a burst of changes to one of them is one step. */
const BY_DEGREES: ReadonlySet<string> = new Set(['find', 'window', 'goal', 'edges', 'line', 'pick']);
const BURST_MS = 2000;

/** Decides which changes of the address are steps of their own: bursts of one kind are one. */
export class AddressSteps {
  private lastName = '';
  private lastMs = -Infinity;

  /** What changes next is no part of a burst. */
  rest(): void {
    this.lastName = '';
  }

  /** What to do with a change from one address to another at `nowMs`. */
  next(before: AddressMembers, after: AddressMembers, nowMs: number): AddressStep {
    const changed = changedNames(before, after);
    const name = changed.length === 1 && BY_DEGREES.has(changed[0]!) ? changed[0]! : '';
    const isBurst = name !== '' && name === this.lastName && nowMs - this.lastMs < BURST_MS;
    this.lastName = name;
    this.lastMs = nowMs;
    return isBurst || changed.length === 0 ? 'replace' : 'push';
  }
}

function changedNames(before: AddressMembers, after: AddressMembers): string[] {
  return [...new Set([...before.keys(), ...after.keys()])].filter((name) => before.get(name) !== after.get(name));
}
