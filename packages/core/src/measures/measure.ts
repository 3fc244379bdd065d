import { z } from 'zod';
import { CHARGES } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import type { StudySide } from '../study/study.ts';

/** A column of a measure's table, for a terminal. */
export interface Column<R> {
  readonly head: string;
  readonly cell: (row: R) => string | number | null;
  /** How a number is written; a count where nothing is said. */
  readonly unit?: 'bytes' | 'bytes/s' | 'ms' | 'ratio' | 'count';
}

/** A measure's table: what is listed of an answer, and how. */
export interface Table<T, R> {
  readonly rows: (answer: T) => readonly R[];
  readonly columns: readonly Column<R>[];
}

/**
 * What a source must tell for a measure to have an answer: objects or flows with their call paths, as recorders do, or
 * collections.
 */
export type Needs = 'objects' | 'collections' | 'anything';

/**
 * One question that page, command line and whoever else asks in the same way. Its answer is plain data: typed arrays
 * and what structured cloning carries.
 */
export interface Measure<N extends string = string, A extends z.ZodType = z.ZodType, T = unknown> {
  /** By which it is asked for. */
  readonly name: N;
  /** What it answers, in one line. */
  readonly title: string;
  /** What may be asked; every member has a default but where there can be none. */
  readonly ask: A;
  readonly needs: Needs;
  readonly answer: (side: StudySide, ask: z.output<A>) => T;
  /** Members of `analyze --json` that tell the same of a whole run; none where it has no place there. */
  readonly report: readonly string[];
  /** Null for an answer that is no table. */
  readonly table: Table<T, unknown> | null;
  /** The form in which its answer is promised to programs; null where that is the answer itself. */
  readonly contract: Contract<T> | null;
}

/** One question about two sides, A and B: of the same recording or of two. */
export interface PairMeasure<N extends string = string, A extends z.ZodType = z.ZodType, T = unknown> extends Omit<
  Measure<N, A, T>,
  'answer' | 'report'
> {
  readonly answer: (a: StudySide, b: StudySide, ask: z.output<A>) => T;
}

/** A form of an answer that programs rely on: members are added to it, never changed. */
export interface Contract<T> {
  readonly schema: string;
  readonly of: (answer: T) => object;
}

/** What `heron ask` and the page may ask of a measure that counts objects: how they are charged, and which are found. */
export const LOOK_ASK = {
  charge: z.enum(CHARGES).default('ownFrame').describe('what allocations are charged to'),
  find: z.string().max(2000).default('').describe('what stands in the find field; empty for all'),
};

/** Declares a measure. */
export function measure<N extends string, A extends z.ZodType, T, R = never>(declared: {
  readonly name: N;
  readonly title: string;
  readonly ask: A;
  readonly needs?: Needs;
  readonly answer: (side: StudySide, ask: z.output<A>) => T;
  readonly report?: readonly string[];
  readonly table?: Table<T, R>;
  readonly contract?: Contract<T>;
}): Measure<N, A, T> {
  return {
    report: [],
    needs: 'anything',
    contract: null,
    ...declared,
    table: (declared.table ?? null) as Table<T, unknown> | null,
  };
}

/** Declares a measure of two sides. */
export function pairMeasure<N extends string, A extends z.ZodType, T, R = never>(declared: {
  readonly name: N;
  readonly title: string;
  readonly ask: A;
  readonly needs?: Needs;
  readonly answer: (a: StudySide, b: StudySide, ask: z.output<A>) => T;
  readonly table?: Table<T, R>;
  readonly contract?: Contract<T>;
}): PairMeasure<N, A, T> {
  return {
    needs: 'anything',
    contract: null,
    ...declared,
    table: (declared.table ?? null) as Table<T, unknown> | null,
  };
}

/** One member of a measure's ask, in words. */
export interface AskMember {
  readonly name: string;
  readonly about: string;
  /** What holds where it is left out; undefined where it must be given. */
  readonly fallback: unknown;
}

/** What may be asked of a measure. */
export function askMembers(ask: z.ZodType): readonly AskMember[] {
  if (!(ask instanceof z.ZodObject)) return [];
  return Object.entries(ask.shape as Readonly<Partial<Record<'charge', z.ZodType>>>).map(([name, member]) => {
    const left = member.safeParse(undefined);
    return { name, about: member.description ?? '', fallback: left.success ? left.data : undefined };
  });
}

/** Why a measure has nothing to say of a recording that tells too little; '' where it has what it needs. */
export function lacksFor(needs: Needs, { tables, format }: Recording): string {
  if (needs === 'objects' && tables.objects.length + tables.flows.length === 0)
    return format === 'recording'
      ? 'no allocation was recorded in it'
      : 'a GC log tells no allocation sites: record the program to see them';
  if (needs === 'collections' && tables.collections.length === 0) return 'it tells no collection';
  return '';
}
