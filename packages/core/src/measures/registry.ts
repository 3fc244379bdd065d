import type { z } from 'zod';
import { type Side, type SideAsk, sideSchema } from '../study/side.ts';
import type { Study } from '../study/study.ts';
import { birthAge } from './birth-age.ts';
import { churn } from './churn.ts';
import { collection } from './collection.ts';
import { collections } from './collections.ts';
import { comparison } from './comparison.ts';
import { completion } from './completion.ts';
import { growth } from './growth.ts';
import { holding } from './holding.ts';
import { inventoryChanges } from './inventory-changes.ts';
import { key } from './key.ts';
import { ledger } from './ledger.ts';
import { lifetimes } from './lifetimes.ts';
import type { Measure, PairMeasure } from './measure.ts';
import { moment } from './moment.ts';
import { overview } from './overview.ts';
import { pathChanges } from './path-changes.ts';
import { paths } from './paths.ts';
import { pauseStep } from './pause-step.ts';
import { promotion } from './promotion.ts';
import { reasons } from './reasons.ts';
import { ribbon } from './ribbon.ts';
import { sites } from './sites.ts';
import { sizes } from './sizes.ts';
import { survival } from './survival.ts';

/** Every measure by its name: what page and command line can ask (docs/adding-a-measure.md). */
export const MEASURES = {
  overview,
  ribbon,
  growth,
  collections,
  collection,
  pauseStep,
  sites,
  churn,
  sizes,
  paths,
  key,
  moment,
  ledger,
  survival,
  lifetimes,
  promotion,
  birthAge,
  holding,
  reasons,
  completion,
} as const;

/** Every measure of two sides by its name. */
export const PAIR_MEASURES = { comparison, pathChanges, inventoryChanges } as const;

export type PairMeasureName = keyof typeof PAIR_MEASURES;
/** What may be asked of a measure of two sides. */
export type PairMeasureAsk<M extends PairMeasureName> = z.input<(typeof PAIR_MEASURES)[M]['ask']>;
/** What it answers. */
export type PairMeasureAnswer<M extends PairMeasureName> = ReturnType<(typeof PAIR_MEASURES)[M]['answer']>;

export type MeasureName = keyof typeof MEASURES;
/** What may be asked of a measure; what has a default may be left out. */
export type MeasureAsk<M extends MeasureName> = z.input<(typeof MEASURES)[M]['ask']>;
/** What a measure answers. */
export type MeasureAnswer<M extends MeasureName> = ReturnType<(typeof MEASURES)[M]['answer']>;

/** The measure of a name; undefined where there is none. */
export function measureOf(name: string): Measure | undefined {
  return Object.hasOwn(MEASURES, name) ? (MEASURES[name as MeasureName] as unknown as Measure) : undefined;
}

/**
 * Asks a measure of one side of a study. @throws with a message for people when there is no such measure, or the ask or
 * the side is not what it should be.
 */
export function askMeasure(study: Study, side: SideAsk, name: string, ask: unknown): unknown {
  const found = measureOf(name);
  if (found === undefined) throw new Error(unknownMeasure(MEASURES, name));
  const checked = checkedAsk(found, ask);
  return found.answer(study.side(checkedSide(side)), checked);
}

/**
 * Asks a measure of two sides, each of its own study or both of one. @throws with a message for people when there is no
 * such measure, or the ask or a side is not what it should be.
 */
export function askPair(
  [studyA, sideA]: readonly [Study, SideAsk],
  [studyB, sideB]: readonly [Study, SideAsk],
  name: string,
  ask: unknown,
): unknown {
  const found = Object.hasOwn(PAIR_MEASURES, name)
    ? (PAIR_MEASURES[name as PairMeasureName] as unknown as PairMeasure)
    : undefined;
  if (found === undefined) throw new Error(unknownMeasure(PAIR_MEASURES, name));
  const checked = checkedAsk(found, ask);
  return found.answer(studyA.side(checkedSide(sideA)), studyB.side(checkedSide(sideB)), checked);
}

function unknownMeasure(known: object, name: string): string {
  return `expected a measure of ${Object.keys(known).join(', ')}, found “${name.slice(0, 80)}”`;
}

function checkedSide(side: SideAsk): Side {
  const whole = sideSchema.safeParse(side);
  if (!whole.success) throw new Error(`the side asked about is not one: ${said(whole.error)}`);
  return whole.data;
}

function checkedAsk({ name, ask: schema }: Pick<Measure, 'name' | 'ask'>, ask: unknown): unknown {
  const checked = schema.safeParse(ask);
  if (!checked.success) throw new Error(`${name} cannot be asked so: ${said(checked.error)}`);
  return checked.data;
}

function said(error: z.ZodError): string {
  return error.issues.map(({ path, message }) => `${path.join('.') || 'it'}: ${message}`).join('; ');
}
