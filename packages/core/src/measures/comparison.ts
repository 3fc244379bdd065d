import { z } from 'zod';
import { birthsSeenMs } from '../analysis/births-seen.ts';
import { compareFigures, type FigureChange } from '../analysis/comparison/compare-figures.ts';
import {
  COMPARED,
  compareKeys,
  type Compared,
  type KeyChange,
  type SideKeys,
} from '../analysis/comparison/compare-keys.ts';
import { type MatchedBy } from '../analysis/comparison/match-keys.ts';
import { NAME_RULES, NameRules } from '../analysis/comparison/name-rules.ts';
import { figureText, outcomeOf, type OutcomeKind } from '../analysis/comparison/outcome.ts';
import { commonRounds, sideFigures, type SideInput } from '../analysis/comparison/side-figures.ts';
import { lostTime } from '../analysis/lost-time.ts';
import { minimumMutatorUtilisation, type MmuPoint, mmuWindows } from '../analysis/mmu.ts';
import { repeatedMarks, roundMarks } from '../analysis/rounds.ts';
import { pausesAreTold } from '../analysis/program-pauses.ts';
import { sentence, spokenClauses } from '../analysis/verdict/sentence.ts';
import type { VerdictKind } from '../analysis/verdict/verdict.ts';
import { type Span, spanLengthMs } from '../base/span.ts';
import { wholeSpan } from '../model/whole-span.ts';
import type { Charge } from '../model/charge.ts';
import type { Estimate } from '../stats/estimate.ts';
import type { StudySide } from '../study/study.ts';
import { keyWords, type KeyWords } from './key-words.ts';
import { LOOK_ASK, pairMeasure } from './measure.ts';
import { verdictReport } from './verdict-report.ts';

/** What of a side stands over the comparison. */
export interface ComparedSide {
  readonly name: string;
  readonly program: string;
  readonly runtime: string;
  readonly collector: string;
  readonly span: Span;
  readonly verdict: VerdictKind;
  readonly sentence: string;
  readonly report: ReturnType<typeof verdictReport>;
  /** Durations of its pauses, ascending, at most some hundreds of them at equal ranks. */
  readonly pauseMs: Float64Array;
  readonly pauses: number;
  readonly mmu: readonly MmuPoint[];
  /** Marks that repeat in it, with their rounds, and runs of its input: what else of it could be a side. */
  readonly rounds: readonly { readonly label: string; readonly times: number }[];
  readonly runs: number;
  /** When the first mark of each of the answer's round labels was set. */
  readonly roundFromMs: readonly number[];
}

/** A key of both sides or one, with its words: those of B where it has it. */
export interface ComparedKey extends KeyWords {
  readonly state: KeyChange['state'];
  /** How it was found on the other side; null for a key of one side. */
  readonly by: MatchedBy | null;
  /** Its words on side A, where they are others there; '' where they are the same. */
  readonly nameInA: string;
  readonly growth: readonly [Estimate, Estimate];
  readonly allocated: readonly [Estimate, Estimate];
  readonly kept: readonly [Estimate, Estimate];
  readonly difference: number;
  readonly low: number;
  readonly high: number;
  readonly clear: boolean;
}

/** What changed from A to B. */
export interface ComparisonAnswer {
  readonly outcome: OutcomeKind;
  readonly sentence: string;
  readonly a: ComparedSide;
  readonly b: ComparedSide;
  readonly figures: readonly FigureChange[];
  readonly charge: Charge;
  /** What of keys their difference is of. */
  readonly of: Compared;
  /** The keys that differ most; `keyCount` is how many there are. */
  readonly keys: readonly ComparedKey[];
  readonly keyCount: number;
  /** Marks that repeat on both sides, and that whose rounds figures are per; '' for none. */
  readonly roundLabels: readonly string[];
  readonly round: string;
  /** What must be known to read it. */
  readonly notes: readonly string[];
}

interface ComparisonAsk {
  readonly charge: Charge;
  readonly find: string;
  readonly of: Compared;
  readonly round: string | null;
  readonly rules: readonly string[] | null;
  readonly most: number;
}

const MOST_PAUSES = 400;
const MOST_KEYS = 1000;

function compare(a: StudySide, b: StudySide, ask: ComparisonAsk): ComparisonAnswer {
  const rules = new NameRules(ask.rules ?? NAME_RULES);
  const [left, right] = [inputOf(a), inputOf(b)];
  const roundLabels = commonRounds(left, right);
  const round = roundLabels.find((label) => label === ask.round) ?? roundLabels[0] ?? '';
  const [figuresA, figuresB] = [sideFigures(left, round), sideFigures(right, round)];
  const figures = compareFigures(figuresA, figuresB);
  const usual = compareKeys(keysOf(a), keysOf(b), 'ownFrame', { of: 'growth', rules });
  const isUsual = ask.charge === 'ownFrame' && ask.find.trim() === '' && ask.of === 'growth';
  const keys = isUsual ? usual : compareKeys(keysOf(a, ask), keysOf(b, ask), ask.charge, { of: ask.of, rules });
  return {
    ...outcomeOf({ a: left, b: right, figures, keys: usual, unitsA: figuresA.units, unitsB: figuresB.units, round }),
    a: sideTold(a, left, { pauseMs: figuresA.pauseMs, roundLabels }),
    b: sideTold(b, right, { pauseMs: figuresB.pauseMs, roundLabels }),
    figures,
    charge: ask.charge,
    of: ask.of,
    keys: keys.slice(0, ask.most).map((key) => keyTold(a, b, ask.charge, key)),
    keyCount: keys.length,
    roundLabels,
    round,
    notes: notesOf(left, right, keys),
  };
}

function inputOf({ subject, span, recording }: StudySide): SideInput {
  const observed = recording.tables.objects.length + recording.tables.flows.length > 0;
  const look = { span, charge: 'ownFrame', find: '', settleMs: null } as const;
  return {
    recording,
    span: subject.spanOf(look),
    verdict: subject.verdict(look),
    table: observed ? subject.table(look) : null,
  };
}

function keysOf(
  side: StudySide,
  ask: Pick<ComparisonAsk, 'charge' | 'find'> = { charge: 'ownFrame', find: '' },
): SideKeys {
  const look = side.look(ask);
  const subject = side.found(ask);
  const span = subject.spanOf(look);
  const observed = side.recording.tables.objects.length + side.recording.tables.flows.length > 0;
  return {
    recording: subject.recording,
    table: observed ? subject.table(look) : null,
    seenMs: birthsSeenMs(subject.recording, span),
    span,
  };
}

function sideTold(
  side: StudySide,
  input: SideInput,
  { pauseMs, roundLabels }: { readonly pauseMs: Float64Array; readonly roundLabels: readonly string[] },
): ComparedSide {
  const { recording, span, verdict, table } = input;
  const lost = recording.hasClock && pausesAreTold(recording) ? lostTime(recording, span) : null;
  const spoken = { verdict, table };
  return {
    name: side.study.name || recording.program,
    program: recording.program,
    runtime: recording.runtime,
    collector: recording.collector,
    span,
    verdict: verdict.kind,
    sentence: sentence(spokenClauses(recording, spoken)),
    report: verdictReport(recording, spoken),
    pauses: pauseMs.length,
    pauseMs: thinned(pauseMs),
    rounds: repeatedMarks(recording, wholeSpan(recording)).map(({ label, times }) => ({ label, times: times - 1 })),
    runs: side.study.runs.length,
    roundFromMs: roundLabels.map((label) => roundMarks(recording, span, label)[0] ?? NaN),
    mmu: lost === null ? [] : minimumMutatorUtilisation(lost.curve, span, mmuWindows(spanLengthMs(span))),
  };
}

// At equal ranks, the shortest and the longest among them.
function thinned(sorted: Float64Array): Float64Array {
  if (sorted.length <= MOST_PAUSES) return sorted.slice();
  const step = (sorted.length - 1) / (MOST_PAUSES - 1);
  return Float64Array.from({ length: MOST_PAUSES }, (_, at) => sorted[Math.round(at * step)]!);
}

function keyTold(a: StudySide, b: StudySide, charge: Charge, change: KeyChange): ComparedKey {
  const inA = change.a === null ? null : keyWords(a.recording, charge, change.a.key);
  const words = change.b === null ? inA! : keyWords(b.recording, charge, change.b.key);
  const { state, by, growth, allocated, kept, difference, low, high, clear } = change;
  const nameOf = ({ name, place }: KeyWords): string => `${name} ${place}`.trim();
  return {
    ...words,
    state,
    by,
    nameInA: inA === null || nameOf(inA) === nameOf(words) ? '' : nameOf(inA),
    ...{ growth, allocated, kept, difference, low, high, clear },
  };
}

function notesOf(a: SideInput, b: SideInput, keys: readonly KeyChange[]): string[] {
  const moved = keys.filter(({ by }) => by === 'line' || by === 'folder').length;
  const renamed = keys.filter(({ by }) => by === 'rule').length;
  const sites = [a, b].filter(({ table }) => table !== null).length;
  return [
    ...(a.recording.runtime !== b.recording.runtime || a.recording.collector !== b.recording.collector
      ? [`A ran on ${runtimeOf(a)}, B on ${runtimeOf(b)}: not all that differs need come from the program.`]
      : []),
    ...(sites === 1 ? ['One side is without allocation sites: keys cannot be compared.'] : []),
    ...(moved > 0 ? [`${moved} keys have moved and are the same by function and file, the nearest line first.`] : []),
    ...(renamed > 0 ? [`${renamed} keys are the same but for what a build changes in names.`] : []),
  ];
}

function runtimeOf({ recording: { runtime, collector } }: SideInput): string {
  return `${runtime || 'an unknown runtime'}${collector === '' ? '' : `, ${collector}`}`;
}

const known = (value: number): number | null => (Number.isFinite(value) ? value : null);

/** What changed from one side to another. */
export const comparison = pairMeasure({
  name: 'comparison',
  title:
    'what changed from A to B, and whether it is better: a sentence, figures and keys, each difference with its error',
  ask: z.strictObject({
    ...LOOK_ASK,
    of: z.enum(COMPARED).default('growth').describe('what of keys is compared'),
    round: z.string().nullable().default(null).describe('label of the mark whose rounds figures are per'),
    rules: z
      .array(z.string().min(1).max(200))
      .max(100)
      .nullable()
      .default(null)
      .describe('what a build changes in names: texts with {hash}, {version} or {n} in them; null for the usual'),
    most: z.number().int().min(1).max(MOST_KEYS).default(200).describe('how many keys at most'),
  }),
  answer: (a, b, ask): ComparisonAnswer => compare(a.untilMoment(), b.untilMoment(), ask),
  contract: {
    schema: 'brisk-heron/comparison@1',
    of: (answer: ComparisonAnswer) => ({
      sentence: answer.sentence,
      outcome: answer.outcome,
      a: sideContract(answer.a),
      b: sideContract(answer.b),
      figures: answer.figures.map(({ name, unit, per, a, b, difference, low, high, clear }) => ({
        name,
        unit,
        per,
        a: known(a.value),
        b: known(b.value),
        difference: known(difference),
        low: known(low),
        high: known(high),
        clear,
      })),
      charge: answer.charge,
      of: answer.of,
      keys: answer.keys.map(keyContract),
      keyCount: answer.keyCount,
      round: answer.round === '' ? null : answer.round,
      notes: answer.notes,
    }),
  },
  table: {
    rows: (answer: ComparisonAnswer) => answer.figures,
    columns: [
      { head: 'figure', cell: (row: FigureChange) => row.name },
      { head: 'per', cell: (row: FigureChange) => row.per },
      { head: 'A', cell: (row: FigureChange) => figureText(row.unit, row.a.value) },
      { head: 'B', cell: (row: FigureChange) => figureText(row.unit, row.b.value) },
      { head: 'difference', cell: (row: FigureChange) => figureText(row.unit, row.difference) },
      { head: 'clear', cell: (row: FigureChange) => (row.clear ? 'clear' : '–') },
    ],
  },
});

function sideContract({ name, span, report, runtime, collector }: ComparedSide) {
  return { name, durationMs: spanLengthMs(span), runtime, collector, verdict: report };
}

function keyContract({ name, place, growth, allocated, kept, nameInA, ...key }: ComparedKey) {
  return {
    key: key.key,
    name: `${name} ${place}`.trim(),
    nameInA: nameInA === '' ? null : nameInA,
    state: key.state,
    matchedBy: key.by,
    aGrowthBytesPerSec: known(growth[0].value),
    bGrowthBytesPerSec: known(growth[1].value),
    aAllocBytesPerSec: known(allocated[0].value),
    bAllocBytesPerSec: known(allocated[1].value),
    aKeptBytes: known(kept[0].value),
    bKeptBytes: known(kept[1].value),
    difference: known(key.difference),
    low: known(key.low),
    high: known(key.high),
    clear: key.clear,
  };
}
