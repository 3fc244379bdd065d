import { formatBytes, formatBytesLike, formatClock, formatDuration, formatPercent } from '../../base/units.ts';
import { chargeText } from '../../model/charge.ts';
import type { Recording } from '../../model/recording.ts';
import { differenceOf, type Estimate } from '../../stats/estimate.ts';
import { holm } from '../../stats/holm.ts';
import type { FigureChange } from './compare-figures.ts';
import type { KeyChange } from './compare-keys.ts';
import { heapLine, type MemoryLine, outsideLine } from './memory-line.ts';
import type { SideInput, SideUnits } from './side-figures.ts';

/** What became of it from A to B, in a word. */
export type OutcomeKind = 'fixed' | 'better' | 'same' | 'worse' | 'mixed' | 'unclear';

/** What a comparison says first. */
export interface Outcome {
  readonly outcome: OutcomeKind;
  readonly sentence: string;
}

/** What is compared, for the sentence. */
export interface Compared {
  readonly a: SideInput;
  readonly b: SideInput;
  readonly figures: readonly FigureChange[];
  /** Keys by own frame, by what they add. */
  readonly keys: readonly KeyChange[];
  readonly unitsA: SideUnits;
  readonly unitsB: SideUnits;
  /** The mark whose rounds are the work done; '' for none. */
  readonly round: string;
}

/** A side that did less than this share of the other's work cannot be held against it without saying so. */
const LITTLE_WORK = 0.5;
/** With less than this share nobody can tell that it did the same. */
const HARDLY_ANY_WORK = 0.05;
/** A difference smaller than this share matters to nobody, however sure it is. */
const MATTERS = 0.05;
/** A pause that people begin to notice, and a difference of the share of time that is worth its name. */
const FELT_MS = 50;
const FELT_RATIO = 0.005;
/** Where no difference larger than this share can hide, two sides are the same. */
const SAME = 0.25;
/** Figures that tell what memory costs: less is better. */
const COSTS: readonly (readonly [name: string, per: FigureChange['per']])[] = [
  ['lost to collecting', 'all'],
  ['pause p99', 'all'],
  ['floor', 'all'],
  ['allocated', 'round'],
];

/** Says whether it is fixed, better, the same or worse, and by how much; or what would have to be recorded to tell. */
export function outcomeOf(compared: Compared): Outcome {
  const [a, b] = linesOf(compared);
  const costs = costChanges(compared.figures);
  if (a.isRising || a.isExhausted) return afterGrowth(compared, a, b, costs);
  if (b.isRising || b.isExhausted) return newGrowth(compared, b, costs);
  if (a.isUnclear || b.isUnclear) return unclear(a, b, costs);
  return byCosts(compared, a, b, costs);
}

// The heap, unless it rises on neither side and what lies outside of it does.
function linesOf({ a, b }: Compared): readonly [MemoryLine, MemoryLine] {
  const heaps = [heapLine(a.verdict), heapLine(b.verdict)] as const;
  const outsides = [outsideLine(a.verdict), outsideLine(b.verdict)] as const;
  const [left, right] = outsides;
  const rises = (line: MemoryLine | null): boolean => line?.isRising === true;
  if (left === null || right === null || heaps.some(rises) || !outsides.some(rises)) return heaps;
  return [left, right];
}

function afterGrowth(compared: Compared, a: MemoryLine, b: MemoryLine, costs: Costs): Outcome {
  const lead = leadOf(compared, a);
  const growing = growingKeys(compared).filter((key) => key !== lead);
  const gone = lead !== null && lead.clear && lead.difference < 0 && !(lead.growth[1].low > 0) ? lead : null;
  if (b.isRising) return stillGrowing(compared, a, b, { lead, growing, gone, costs });
  if (b.isExhausted)
    return a.isExhausted
      ? tell('same', `Not fixed: B ran out of room as well. ${costText(costs)}`)
      : tell('worse', `Worse: B ran out of room, and A did not. ${costText(costs)}`);
  if (b.isUnclear) {
    const sofar = gone === null ? '' : ` So far, ${fellText(compared, gone, b)}.`;
    return tell('unclear', `Cannot be told yet: B needs ${b.missing}.${sofar}`);
  }
  const idle = tooLittleWork(compared, a, b);
  if (idle !== '') return tell('unclear', idle);
  // Of a heap that was full no growth is told.
  const isFull = a.isExhausted && Number.isNaN(a.growth.low);
  if (!isFull && !(b.growth.high < a.growth.low))
    return tell(
      'unclear',
      `Cannot be told yet: ${growthText(a)} in A, and up to ${perMinute(b.growth.high)} can hide in B. Record B for longer, or with more whole collections.`,
    );
  const said =
    lead !== null
      ? fellText(compared, lead, b)
      : isFull
        ? 'A ran out of room, and B does not grow'
        : `growth${a.where} fell ${fromTo(a.growth, b.growth)}`;
  const others = othersText(compared, growing);
  const isWorse = costs.worse.length > 0 || growing.length > 0;
  return tell(isWorse ? 'mixed' : 'fixed', `Fixed${isWorse ? ', but' : ''}: ${said}. ${others} ${costText(costs)}`);
}

function stillGrowing(
  compared: Compared,
  a: MemoryLine,
  b: MemoryLine,
  {
    lead,
    growing,
    gone,
    costs,
  }: {
    readonly lead: KeyChange | null;
    readonly growing: readonly KeyChange[];
    readonly gone: KeyChange | null;
    readonly costs: Costs;
  },
): Outcome {
  const { difference, low, high } = differenceOf(a.growth, b.growth);
  const isClear = low > 0 || high < 0;
  const whole = `memory${a.where} grows ${perMinute(b.growth.value)}${isClear ? ` instead of ${perMinute(a.growth.value)}` : `, and grew ${perMinute(a.growth.value)}`}`;
  if (gone !== null && growing.length > 0) {
    const second = growing[0]!;
    const before = second.growth[0].low > 0 ? 'A second site grows as it did before' : 'Another site grows now';
    return tell(
      'mixed',
      `${before}: ${nameOf(compared, second)} adds ${rateText(second.growth[1])}. ${capital(fellText(compared, gone, b))}. ${costText(costs)}`,
    );
  }
  const moved = moverOf(compared, difference) ?? lead;
  const rest = `${leadText(compared, moved)}${roomText(compared)}${costText(costs)}`;
  if (high < 0 && -difference > MATTERS * a.growth.value)
    return costs.worse.length > 0 || (b.isExhausted && !a.isExhausted)
      ? tell('mixed', `Mixed, not fixed: ${whole}. ${rest}`)
      : tell('better', `Better, not fixed: ${whole}. ${rest}`);
  if (low > 0 && difference > MATTERS * a.growth.value) return tell('worse', `Worse: ${whole}. ${rest}`);
  return tell('same', `Not fixed: ${whole}. ${rest}`);
}

// The key that surely moved most in the direction of the whole.
function moverOf({ keys }: Compared, difference: number): KeyChange | null {
  const moved = keys.filter((key) => key.clear && Math.sign(key.difference) === Math.sign(difference));
  return moved.sort((x, y) => Math.abs(y.difference) - Math.abs(x.difference))[0] ?? null;
}

// Which side was full, and where.
function roomText({ a, b }: Compared): string {
  return [['A', a] as const, ['B', b] as const]
    .filter(([, { verdict }]) => verdict.exhaustion !== null)
    .map(
      ([name, { verdict }]) =>
        `The ${verdict.exhaustion!.what} of ${name} was full at ${formatClock(verdict.exhaustion!.fromMs)}. `,
    )
    .join('');
}

function newGrowth(compared: Compared, b: MemoryLine, costs: Costs): Outcome {
  const growing = growingKeys(compared);
  const what = b.isRising ? `memory${b.where} grows ${rateText(b.growth)} in B` : 'B ran out of room';
  const [a] = linesOf(compared);
  if (a.isUnclear) return tell('unclear', `Cannot be told yet: ${what}, but A needs ${a.missing}.`);
  const from = growing.length === 0 ? '' : `, by ${nameOf(compared, growing[0]!)}`;
  return tell('worse', `Worse: ${what}${from}, and did not in A. ${costText(costs)}`);
}

function unclear(a: MemoryLine, b: MemoryLine, costs: Costs): Outcome {
  const lacks = [...(a.isUnclear ? [`A needs ${a.missing}`] : []), ...(b.isUnclear ? [`B needs ${b.missing}`] : [])];
  const grows = `Cannot be told yet whether it grows: ${lacks.join('; ')}.`;
  // What is sure is said first.
  return tell('unclear', costs.told.length > 0 ? `${costText(costs)} ${grows}` : `${grows} ${costText(costs)}`);
}

function byCosts(compared: Compared, a: MemoryLine, b: MemoryLine, costs: Costs): Outcome {
  const bursts = burstsOf(compared, costs);
  if (bursts !== null) return bursts;
  const steady = `${a.isUnclear || b.isUnclear ? '' : 'Memory grows in neither. '}${otherWork(compared)}`;
  if (costs.better.length > 0 && costs.worse.length > 0)
    return tell('mixed', `Mixed: ${lower(costText(costs))} ${steady}`);
  if (costs.better.length > 0) return tell('better', `Better: ${lower(costText(costs))} ${steady}`);
  if (costs.worse.length > 0) return tell('worse', `Worse: ${lower(costText(costs))} ${steady}`);
  const known = costs.all.filter(({ low, high }) => Number.isFinite(low) && Number.isFinite(high));
  const isClose = ({ a: left, low, high }: FigureChange): boolean =>
    Math.max(Math.abs(low), Math.abs(high)) <= SAME * Math.abs(left.value);
  if (known.some(isClose)) {
    const said = costs.told.length === 0 ? 'no difference is clear' : 'no difference that matters is clear';
    return tell('same', `The same: ${said}. ${steady}${costText(costs)}`);
  }
  return tell(
    'unclear',
    known.length === 0
      ? `Cannot be told: the two sides tell no figure of what memory costs that both have. ${steady}`
      : `Cannot be told yet: no difference is clear, and large ones can hide. Record both for longer. ${steady}${costText(costs)}`,
  );
}

// A flat floor with peaks of over twice the usual, on one side.
function burstsOf({ a, b, figures }: Compared, costs: Costs): Outcome | null {
  const [was, is] = [a.verdict.kind === 'bursting', b.verdict.kind === 'bursting'];
  if (was === is) return null;
  const peak = figures.find(({ name }) => name === 'peak used');
  const peaks =
    peak === undefined ? '' : `: the peak is ${formatBytes(peak.b.value)} instead of ${formatBytes(peak.a.value)}`;
  if (is) return tell('worse', `Worse: memory bursts in B, and did not in A${peaks}. ${costText(costs)}`);
  return tell(
    costs.worse.length > 0 ? 'mixed' : 'better',
    `${costs.worse.length > 0 ? 'Mixed' : 'Better'}: the bursts of A are gone${peaks}. ${costText(costs)}`,
  );
}

// What grew most in A, of the heap or outside of it.
function leadOf({ keys }: Compared, line: MemoryLine): KeyChange | null {
  const isThere = ({ a }: KeyChange): boolean => a !== null && a.isOutside === (line.where !== '');
  const sure = keys.filter((key) => isThere(key) && key.growth[0].low > 0);
  return sure.sort((x, y) => y.growth[0].value - x.growth[0].value)[0] ?? null;
}

// Keys that surely grow in B, all being tested together, the fastest first.
function growingKeys({ keys }: Compared): KeyChange[] {
  const none = { value: 0, low: 0, high: 0 };
  const clear = holm(keys.map(({ growth }) => differenceOf(none, growth[1]).pValue));
  return keys
    .filter(({ growth, b }, at) => b !== null && clear[at]! && growth[1].low > 0)
    .sort((x, y) => y.growth[1].value - x.growth[1].value);
}

// Rounds where both have them, else what was allocated, a second.
function workOf({ unitsA, unitsB, round }: Compared): {
  readonly byRounds: boolean;
  readonly work: (units: SideUnits) => number;
  readonly ratio: number;
} {
  const byRounds = round !== '' && unitsA.round >= 3 && unitsB.round >= 1;
  const work = (units: SideUnits): number => (byRounds ? units.round : units.allocatedMiB.value) / units.second;
  return { byRounds, work, ratio: work(unitsB) / work(unitsA) };
}

// Less garbage and less work look alike where no marks tell what was done.
function otherWork(compared: Compared): string {
  const { byRounds, work, ratio } = workOf(compared);
  if (byRounds || !(ratio < LITTLE_WORK || ratio > 1 / LITTLE_WORK)) return '';
  const amount = (units: SideUnits): string => formatBytes(work(units) * 1024 * 1024);
  return `B allocated ${amount(compared.unitsB)} a second instead of ${amount(compared.unitsA)}: whether it did other work, or the same with other garbage, marks around each unit of work would tell. `;
}

// A program that does nothing grows by nothing: then nothing is fixed.
function tooLittleWork(compared: Compared, a: MemoryLine, b: MemoryLine): string {
  const { unitsA, unitsB, round } = compared;
  const { byRounds, work, ratio } = workOf(compared);
  if (!(ratio < LITTLE_WORK)) return '';
  if (ratio > HARDLY_ANY_WORK && b.growth.high < 0.5 * a.growth.low * ratio) return '';
  const amount = (units: SideUnits): string =>
    byRounds
      ? `${(work(units) * 60).toPrecision(2)} rounds of “${round}” a minute`
      : `${formatBytes(work(units) * 1024 * 1024)} allocated a second`;
  return `Cannot be told yet: B did much less, ${amount(unitsB)} instead of ${amount(unitsA)}, and what A added for as much may hide in it. Record B under the same load.`;
}

/** Figures of cost that surely differ by what matters, and all of them. */
interface Costs {
  readonly all: readonly FigureChange[];
  readonly told: readonly FigureChange[];
  readonly better: readonly FigureChange[];
  readonly worse: readonly FigureChange[];
}

function costChanges(figures: readonly FigureChange[]): Costs {
  const all = COSTS.flatMap(([name, per]) => figures.filter((each) => each.name === name && each.per === per));
  const matters = all.filter(
    ({ clear, a, b, difference }) =>
      clear && Math.abs(difference) > MATTERS * Math.max(Math.abs(a.value), Math.abs(b.value)),
  );
  return {
    all,
    told: matters,
    better: matters.filter((each) => each.difference < 0 && isFelt(each)),
    worse: matters.filter((each) => each.difference > 0 && isFelt(each)),
  };
}

// Pauses that are short on both sides, and shares that hardly differ, make nothing worse: they are told, and decide
// nothing.
function isFelt({ name, a, b, difference }: FigureChange): boolean {
  if (name === 'pause p99') return Math.max(a.value, b.value) > FELT_MS;
  return name !== 'lost to collecting' || Math.abs(difference) > FELT_RATIO;
}

const COST_WORDS: readonly (readonly [name: string, words: string])[] = [
  ['lost to collecting', 'Collecting takes'],
  ['pause p99', 'The 99th percentile of pauses is'],
  ['floor', 'The floor is'],
  ['allocated', 'A round allocates'],
];

function costText({ all, told }: Costs): string {
  if (told.length === 0) return all.length === 0 ? '' : 'What collecting costs differs by nothing that is clear.';
  return told
    .map(({ name, unit, a, b }) => {
      const words = COST_WORDS.find(([each]) => each === name)![1];
      return `${words} ${figureText(unit, b.value)} instead of ${figureText(unit, a.value)}.`;
    })
    .join(' ');
}

/** A figure as it is told in its unit. */
export function figureText(unit: FigureChange['unit'], value: number): string {
  if (value < 0) return `−${figureText(unit, -value)}`;
  if (Number.isNaN(value)) return '–';
  switch (unit) {
    case 'bytes':
      return formatBytes(value);
    case 'ms':
      return formatDuration(value);
    case 'ratio':
      return formatPercent(value);
    case 'count':
      return Number.isInteger(value) ? value.toLocaleString('en') : value.toPrecision(3);
  }
}

function othersText(compared: Compared, growing: readonly KeyChange[]): string {
  const { keys } = compared;
  if (growing.length === 0) return keys.length === 0 ? '' : 'Nothing else grows.';
  return `${nameOf(compared, growing[0]!)} grows ${rateText(growing[0]!.growth[1])}.`;
}

function leadText(compared: Compared, lead: KeyChange | null): string {
  if (lead === null) return '';
  const { growth } = lead;
  return `${nameOf(compared, lead)} adds ${rateText(growth[1])}; it was ${rateText(growth[0])}. `;
}

// Of a key that is not there any more as much can hide as in the whole, less what surely is of other keys.
function fellText(compared: Compared, lead: KeyChange, { growth: whole }: MemoryLine): string {
  const [before, after] = lead.growth;
  const others = growingKeys(compared).reduce((sum, { growth }) => sum + Math.max(0, growth[1].low), 0);
  const error = after.high - after.low > 0 || Number.isNaN(whole.high) ? 0 : Math.max(0, whole.high - others);
  return `what ${nameOf(compared, lead)} adds fell ${fromTo(before, { ...after, low: after.low - error, high: after.high + error })}`;
}

function nameOf({ a, b }: Compared, key: KeyChange): string {
  const of = (recording: Recording, id: number): string => chargeText(recording, 'ownFrame', id);
  return key.b === null ? of(a.recording, key.a!.key) : of(b.recording, key.b.key);
}

function growthText({ where, growth }: MemoryLine): string {
  return `memory${where} grows ${rateText(growth)}`;
}

function fromTo(a: Estimate, b: Estimate): string {
  const minute = Math.abs(a.value) * 60;
  const error = ((b.high - b.low) / 2) * 60;
  const within = Number.isFinite(error) && error > 0 ? ` ± ${formatBytesLike(error, minute)}` : '';
  const unit = formatBytes(minute).replace(/^.*\s/, '');
  return `from ${formatBytesLike(minute, minute)} to ${formatBytesLike(b.value * 60, minute).replace(/^−(0\.?0*)$/, '$1')}${within} ${unit}/min`;
}

function rateText({ value, low, high }: Estimate): string {
  const minute = value * 60;
  const range =
    Number.isFinite(low) && Number.isFinite(high)
      ? ` (${formatBytesLike(low * 60, minute)}–${formatBytesLike(high * 60, minute)})`
      : '';
  return `${perMinute(value)}${range}`;
}

function perMinute(perSec: number): string {
  return `${formatBytes(perSec * 60)}/min`;
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

function lower(text: string): string {
  return text.charAt(0).toLowerCase() + text.slice(1);
}

function tell(outcome: OutcomeKind, text: string): Outcome {
  return { outcome, sentence: text.replace(/\s+/g, ' ').trim() };
}
