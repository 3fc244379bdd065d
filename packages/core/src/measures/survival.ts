import { z } from 'zod';
import { AGE_KINDS, type AgeKind } from '../analysis/survival/age-meter.ts';
import { compareGroups, comparePair, type LivesDifference } from '../analysis/survival/compare-lives.ts';
import { type CurvePoint, type GroupSurvival, shareAt, survivalOf } from '../analysis/survival/curves.ts';
import { livesByGroup } from '../analysis/survival/life-tables.ts';
import { livesOf, type Lives, type LifeWeight } from '../analysis/survival/lives.ts';
import { chargeGroups, keyText } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { piece } from '../study/piece.ts';
import { foundInput, type FoundInput, type Look, type Subject } from '../study/subject.ts';
import { keyWords, type KeyWords } from './key-words.ts';
import { LOOK_ASK, measure } from './measure.ts';
import { PAST_MS } from './survival-report.ts';

/** How long one key's objects live, or, with `words` null, all of them. */
export interface SurvivalGroup extends GroupSurvival {
  readonly words: KeyWords | null;
  /** The shares that are older than `PAST_MS`, null beyond what was seen; none where age is not counted in time. */
  readonly past: readonly (CurvePoint | null)[];
}

interface SurvivalAsk {
  readonly look: Look;
  readonly by: LifeWeight;
  readonly age: AgeKind;
  /** Keys by their own words; empty for those that allocate most. */
  readonly keys: readonly string[];
  readonly most: number;
  /** Keys whose curves have their points, by their own words, or how many of the first that have a curve; null for all. */
  readonly curvesOf: readonly string[] | number | null;
  /** Two keys, by their own words, whose lives are held against each other; null for none. */
  readonly pair: readonly string[] | null;
}

/** How long objects live: all of them first, then keys by what they allocated. */
export interface SurvivalAnswer {
  readonly age: AgeKind;
  readonly by: LifeWeight;
  readonly groups: readonly SurvivalGroup[];
  /** The keys' lives against those of all others, in the groups' order without the first. */
  readonly differences: readonly LivesDifference[];
  /** The first of two keys against the second; null where none were asked for, or one is not among the groups. */
  readonly pair: LivesDifference | null;
  /** Why nothing can be told; null where something is. */
  readonly missing: string | null;
  /** What of the evidence the reader must know: what was not seen, and how deaths are noticed. */
  readonly notes: readonly string[];
}

const MOST_KEYS = 200;

type LivesInput = FoundInput & { readonly by: LifeWeight; readonly kind: AgeKind };

const LIVES = piece(
  'lives',
  (subject: Subject, { by, kind, ...input }: LivesInput): Lives =>
    livesOf(subject.recording, {
      span: subject.spanOf(input),
      kind,
      by,
      chosen: subject.chosen(input.find),
      flows: subject.flows(input),
    }),
  2,
);

/** The lives of a subject, kept for every measure that asks for them. */
export function livesIn(subject: Subject, look: Look, by: LifeWeight, kind: AgeKind): Lives {
  return subject.get(LIVES, { ...foundInput(look), by, kind });
}

function survivalAnswer(subject: Subject, { look, by, age, keys, most, pair, curvesOf }: SurvivalAsk): SurvivalAnswer {
  const { recording } = subject;
  const lives = livesIn(subject, look, by, age);
  const { chosenKeys, groupOf } = groupsOf(recording, lives, look, { keys, most });
  const grouped = livesByGroup(lives, chosenKeys.length, groupOf);
  const { whole, groups } = survivalOf(grouped, age);
  return {
    age,
    by,
    groups: [
      { ...whole, words: null, past: pastOf(whole) },
      ...withCurvesOf(
        curvesOf,
        groups.map((group, at) => ({
          ...group,
          words: keyWords(recording, look.charge, chosenKeys[at]!),
          past: pastOf(group),
        })),
      ),
    ],
    differences: compareGroups(grouped),
    pair: pairOf(),
    missing: whole.missing === '' ? null : whole.missing,
    notes: notesOf(recording, lives, by),
  };

  function pastOf({ curve }: GroupSurvival): (CurvePoint | null)[] {
    return age === 'seconds' ? PAST_MS.map((ms) => shareAt(curve, ms)) : [];
  }

  function pairOf(): LivesDifference | null {
    const texts = chosenKeys.map((key) => keyText(recording, look.charge, key));
    const [one = -1, other = -1] = (pair ?? []).map((wanted) => texts.indexOf(wanted));
    return one < 0 || other < 0 || one === other ? null : comparePair(grouped, one, other);
  }
}

type NamedGroup = SurvivalGroup & { readonly words: KeyWords };

// Points of curves are many, and few are drawn.
function withCurvesOf(wanted: SurvivalAsk['curvesOf'], groups: readonly NamedGroup[]): readonly NamedGroup[] {
  if (wanted === null) return groups;
  const withCurve = groups.filter(({ missing }) => missing === '').map(({ words }) => words.key);
  const told = new Set(typeof wanted === 'number' ? withCurve.slice(0, wanted) : wanted);
  return groups.map((group) => (told.has(group.words.key) ? group : { ...group, curve: [] }));
}

// Keys that are asked for, else those that allocate most, and whose each origin is.
function groupsOf(
  recording: Recording,
  lives: Lives,
  { charge }: Look,
  { keys, most }: { readonly keys: readonly string[]; readonly most: number },
): { readonly chosenKeys: readonly number[]; readonly groupOf: Int32Array } {
  const charged = chargeGroups(recording, charge);
  const weights = new Float64Array(charged.keys.length);
  for (let row = 0; row < lives.length; row++) weights[charged.groupOf[lives.originId[row]!]!]! += lives.weight[row]!;
  const ranked = Array.from(weights.keys())
    .filter((group) => weights[group]! > 0)
    .sort((a, b) => weights[b]! - weights[a]!);
  const wanted = new Set(keys);
  const shown =
    wanted.size === 0
      ? ranked.slice(0, most)
      : ranked.filter((group) => wanted.has(keyText(recording, charge, charged.keys[group]!)));
  const place = new Int32Array(charged.keys.length).fill(-1);
  shown.forEach((group, at) => {
    place[group] = at;
  });
  const groupOf = new Int32Array(charged.groupOf.length);
  for (let originId = 0; originId < groupOf.length; originId++) groupOf[originId] = place[charged.groupOf[originId]!]!;
  return { chosenKeys: shown.map((group) => charged.keys[group]!), groupOf };
}

function notesOf(recording: Recording, lives: Lives, by: LifeWeight): string[] {
  const untold = by === 'objects' && lives.length < recording.tables.objects.length && lives.length === 0;
  const flows = lives.length - lives.objects;
  return [
    ...(untold ? ['The source tells estimates of bytes, and no objects: ask by bytes.'] : []),
    ...(flows > 0
      ? ['Bytes whose objects were not seen singly count as dead within the stretch in which they were allocated.']
      : []),
    'A death is noticed by a collection: the band has it as early and as late as it can have been.',
  ];
}

/** How long objects live. */
export const survival = measure({
  name: 'survival',
  title: 'how long objects live: survival curves with their bands, of all and of each key',
  needs: 'objects',
  ask: z.strictObject({
    ...LOOK_ASK,
    by: z.enum(['bytes', 'objects']).default('bytes').describe('what lives are weighted by'),
    age: z.enum(AGE_KINDS).default('seconds').describe('what age is counted in'),
    keys: z.array(z.string()).default([]).describe('keys by their own words; none for those that allocate most'),
    most: z.number().int().min(0).max(MOST_KEYS).default(20).describe('how many keys at most'),
    curvesOf: z
      .union([z.number().int().min(0), z.array(z.string())])
      .nullable()
      .default(null)
      .describe('keys whose curves have their points, or how many of the first that have a curve; null for all'),
    pair: z
      .array(z.string())
      .length(2)
      .nullable()
      .default(null)
      .describe('two keys, by their own words, that are held against each other'),
  }),
  answer: (side, ask): SurvivalAnswer => survivalAnswer(side.found(ask), { look: side.look(ask), ...ask }),
  report: ['survival'],
  contract: {
    schema: 'brisk-heron/survival@1',
    of: ({ age, by, groups, missing, notes, pair }: SurvivalAnswer) => ({
      age,
      by,
      missing,
      notes,
      pair,
      groups: groups.map(({ words, samples, weight, weightSe, median, p90, curve, missing: lacks }) => ({
        key: words === null ? null : words.key,
        name: words === null ? null : `${words.name} ${words.place}`.trim(),
        samples,
        [by === 'bytes' ? 'bytes' : 'objects']: weight,
        [by === 'bytes' ? 'bytesSe' : 'objectsSe']: weightSe,
        median: inUnit(age, median),
        p90: inUnit(age, p90),
        curve: curve.map((point) => ({ ...point, age: ageInUnit(age, point.age) })),
        missing: lacks === '' ? null : lacks,
      })),
    }),
  },
  table: {
    rows: (answer: SurvivalAnswer) => answer.groups,
    columns: [
      {
        head: 'key',
        cell: (row: SurvivalGroup) => (row.words === null ? '(all)' : `${row.words.name} ${row.words.place}`.trim()),
      },
      { head: 'samples', cell: (row: SurvivalGroup) => row.samples },
      { head: 'median from', cell: (row: SurvivalGroup) => row.median.low },
      { head: 'median to', cell: (row: SurvivalGroup) => row.median.high },
      { head: 'p90 from', cell: (row: SurvivalGroup) => row.p90.low },
      { head: 'p90 to', cell: (row: SurvivalGroup) => row.p90.high },
      { head: 'missing', cell: (row: SurvivalGroup) => row.missing },
    ],
  },
});

// An age in the unit that its kind is named by: seconds of milliseconds, collections, bytes.
function ageInUnit(kind: AgeKind, age: number): number {
  return kind === 'seconds' ? age / 1000 : age;
}

function inUnit(kind: AgeKind, { low, high }: GroupSurvival['median']): GroupSurvival['median'] {
  const told = (age: number | null): number | null => (age === null ? null : ageInUnit(kind, age));
  return { low: told(low), high: told(high) };
}
