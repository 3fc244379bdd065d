import { z } from 'zod';
import { MOST_BYTES, MOST_PAUSE_MS, MOST_TIME_MS } from '../../model/domain.ts';
import { STREAM_SCHEMA, type StreamLine } from './layout.ts';
import { type QuickCheck, quickCheckOf } from './quick-check.ts';

/** Checks of lists, and of columns that are typed arrays already. */
const OWN_CHECKS = new Map<z.core.$ZodType, QuickCheck>();
const time = z
  .number()
  .min(-MOST_TIME_MS, 'expected a time within ten years of the beginning')
  .max(MOST_TIME_MS, 'expected a time within ten years of the beginning');
/** The year 2200. */
const epochTime = z.number().nonnegative().max(7_258_118_400_000, 'expected milliseconds since 1970');
const bytes = z.number().nonnegative().max(MOST_BYTES, 'expected at most 16 TiB');
const amount = z.number().nonnegative().max(Number.MAX_SAFE_INTEGER, 'expected a count');
const lasting = z.number().nonnegative().max(MOST_PAUSE_MS, 'expected at most a day');
const id = z.number().int().nonnegative();
const everyBytes = z.number().positive().max(MOST_BYTES, 'expected an interval of at most 16 TiB');
const ids = list({ least: 0, whole: true }, 'ids, whole numbers from 0');
const idColumn = column({ least: 0, whole: true }, 'ids, whole numbers from 0');
const sizes = column({ least: 0, most: MOST_BYTES }, 'bytes, numbers from 0 to 16 TiB');
const counts = column({ least: 0 }, 'numbers from 0');
const text = z.string().max(4096);
/** A line has 4 MiB at most. */
const MOST_PIECE_LETTERS = 4 * 1024 * 1024;
const heap = { h: z.string().min(1).max(100) };
const scope = z.enum(['young', 'mixed', 'whole']);
const interval = { from: time, to: time };
const BACKWARD = '"from" must not be after "to"';

function isForward(line: { readonly from: number; readonly to: number }): boolean {
  return line.from <= line.to;
}

/** Contract of one line of the open stream; unknown members are ignored, so that version 1 can grow. */
const streamLineSchema = z.discriminatedUnion('k', [
  z.object({
    k: z.literal('hello'),
    schema: z.literal(STREAM_SCHEMA),
    ...heap,
    epochMs: epochTime,
    program: text,
    runtime: text,
    collector: text.optional(),
    heapName: text.optional(),
    pid: id.optional(),
    interval: everyBytes.optional(),
    limit: z.number().positive().optional(),
    container: z.number().positive().optional(),
    attached: z.boolean().optional(),
    clockMs: z.number().finite().optional(),
    log: z.literal('jvm-unified').optional(),
    own: z.array(text).max(1000).optional(),
    births: z.enum(['all', 'some']).optional(),
    inlined: z.boolean().optional(),
    named: z.boolean().optional(),
  }),
  z.object({ k: z.literal('name'), ...heap, name: text }),
  z
    .object({ k: z.literal('frames'), ...heap, first: id, fn: z.array(text), file: z.array(text), line: ids, col: ids })
    .refine((l) => same(l.fn, l.file, l.line, l.col), 'fn, file, line and col must be equally long'),
  z
    .object({
      k: z.literal('paths'),
      ...heap,
      first: id,
      parent: list({ least: -1, whole: true }, 'ids, whole numbers from -1'),
      frame: ids,
    })
    .refine((l) => same(l.parent, l.frame), 'parent and frame must be equally long'),
  z
    .object({ k: z.literal('places'), ...heap, frame: ids, file: z.array(text), line: ids, col: ids })
    .refine((l) => same(l.frame, l.file, l.line, l.col), 'frame, file, line and col must be equally long'),
  z
    .object({ k: z.literal('types'), ...heap, first: id, name: z.array(text), outside: ids.optional() })
    .refine((l) => same(l.name, l.outside), 'name and outside must be equally long'),
  z.object({ k: z.literal('threads'), ...heap, first: id, name: z.array(text) }),
  z
    .object({
      k: z.literal('born'),
      ...heap,
      ...interval,
      id: idColumn,
      path: idColumn,
      size: sizes,
      at: column({}, 'times, finite numbers').optional(),
      p: column({ least: 1e-9, most: 1 }, 'probabilities above 0, up to 1').optional(),
      interval: everyBytes.optional(),
      type: idColumn.optional(),
      thread: idColumn.optional(),
    })
    .refine((l) => same(l.id, l.path, l.size, l.at, l.p, l.type, l.thread), 'the columns must be equally long')
    .refine(isForward, BACKWARD),
  z.object({ k: z.literal('died'), ...heap, ...interval, id: idColumn }).refine(isForward, BACKWARD),
  z
    .object({
      k: z.literal('flow'),
      ...heap,
      ...interval,
      path: idColumn,
      bytes: sizes,
      se: counts.optional(),
      count: counts.optional(),
      inferred: z.boolean().optional(),
    })
    .refine((l) => same(l.path, l.bytes, l.se, l.count), 'the columns must be equally long')
    .refine(isForward, BACKWARD),
  z.object({
    k: z.literal('gc'),
    ...heap,
    t: time,
    ms: lasting,
    scope,
    label: text,
    cause: text.optional(),
    before: bytes.optional(),
    after: bytes.optional(),
    capacity: bytes.optional(),
    own: z.boolean().optional(),
    explicit: z.boolean().optional(),
    spaces: z
      .array(z.tuple([text, bytes, bytes]))
      .max(100)
      .optional(),
    pools: z
      .array(z.tuple([text, bytes]))
      .max(100)
      .optional(),
  }),
  z.object({ k: z.literal('pause'), ...heap, t: time, ms: lasting, scope, label: text, own: z.boolean().optional() }),
  z.object({
    k: z.literal('size'),
    ...heap,
    t: time,
    used: bytes,
    committed: bytes.optional(),
    external: bytes.optional(),
    resident: bytes.optional(),
  }),
  z.object({ k: z.literal('mark'), ...heap, t: time, label: text, by: z.enum(['program', 'page', 'recorder']) }),
  z.object({
    k: z.literal('phase'),
    ...heap,
    t: time,
    kind: z.enum(['births', 'survivors', 'objects', 'deaths', 'blind']),
  }),
  z
    .object({ k: z.literal('look'), ...heap, ...interval, taken: amount, seen: amount, reads: amount, ms: lasting })
    .refine(isForward, BACKWARD),
  z.object({ k: z.literal('silence'), ...heap, ...interval }).refine(isForward, BACKWARD),
  z.object({ k: z.literal('interval'), ...heap, t: time, bytes: everyBytes }),
  z.object({ k: z.literal('log'), ...heap, upto: amount, text: z.string().max(1024 * 1024) }),
  z.object({ k: z.literal('poll'), ...heap, t: time, ms: lasting, taken: amount.optional() }),
  z.object({ k: z.literal('src'), ...heap, file: text, line: id, first: id, text: z.array(text).max(200) }),
  z.object({
    k: z.literal('inventory'),
    ...heap,
    t: time,
    ms: lasting.optional(),
    n: id,
    data: z.string().max(MOST_PIECE_LETTERS),
    last: z.boolean().optional(),
  }),
  z.object({ k: z.literal('note'), ...heap, t: time, code: text, message: text }),
  z.object({ k: z.literal('bye'), ...heap, t: time, reason: text, live: amount.optional() }),
]);

interface Bounds {
  readonly least?: number;
  readonly most?: number;
  readonly whole?: boolean;
}

/**
 * Many numbers, each within bounds. Zod's own array calls a check for every one, which took most of the time of reading
 * a large recording; this is one loop (bench/streams.bench.mjs).
 */
function list(bounds: Bounds, expected: string) {
  const schema = z
    .custom<number[]>(Array.isArray, `expected an array of ${expected}`)
    .check(({ value, issues }) => tellFirst(value, firstOutside(value, bounds), expected, issues));
  OWN_CHECKS.set(schema, (value) => Array.isArray(value) && firstOutside(value, bounds) === value.length);
  return schema;
}

/** The same of columns that may be long: they are read from bytes as a rule, and come as one kind of array always. */
function column(bounds: Bounds, expected: string) {
  const schema = z
    .custom<number[] | Float64Array>(
      (value) => value instanceof Float64Array || Array.isArray(value),
      `expected an array of ${expected}`,
    )
    .check(({ value, issues }) => {
      const at = value instanceof Float64Array ? firstOfColumnOutside(value, bounds) : firstOutside(value, bounds);
      tellFirst(value, at, expected, issues);
    })
    .transform((value) => (value instanceof Float64Array ? value : Float64Array.from(value)));
  OWN_CHECKS.set(
    schema,
    (value) => value instanceof Float64Array && firstOfColumnOutside(value, bounds) === value.length,
  );
  return schema;
}

function tellFirst(value: ArrayLike<number>, at: number, expected: string, issues: z.core.$ZodRawIssue[]): void {
  if (at < value.length) issues.push({ code: 'custom', message: `expected ${expected}`, input: value[at], path: [at] });
}

function firstOutside(
  values: readonly unknown[],
  { least = -Number.MAX_VALUE, most = Number.MAX_VALUE, whole = false }: Bounds,
): number {
  let at = 0;
  for (; at < values.length; at++) {
    const each = values[at];
    if (!(typeof each === 'number' && each >= least && each <= most && (!whole || Number.isSafeInteger(each)))) break;
  }
  return at;
}

function firstOfColumnOutside(
  values: Float64Array,
  { least = -Number.MAX_VALUE, most = Number.MAX_VALUE, whole = false }: Bounds,
): number {
  const highest = whole ? Math.min(most, Number.MAX_SAFE_INTEGER) : most;
  let at = 0;
  for (; at < values.length; at++) {
    const each = values[at]!;
    if (!(each >= least && each <= highest && (!whole || Math.floor(each) === each))) break;
  }
  return at;
}

function same(...columns: (ArrayLike<unknown> | undefined)[]): boolean {
  const length = columns[0]?.length;
  return columns.every((column) => column === undefined || column.length === length);
}

/** A line that may be used, or what was expected of it. */
export type LineCheck = { readonly ok: true; readonly line: StreamLine } | { readonly ok: false; readonly why: string };

/** Reads one line of text against the contract; never throws. */
export function checkStreamLine(text: string): LineCheck {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return { ok: false, why: 'expected one JSON object; is the line cut off?' };
  }
  return checkStreamValue(value);
}

const QUICK_CHECKS: ReadonlyMap<unknown, QuickCheck> = new Map(
  streamLineSchema.options.map((option) => [option.shape.k.value, quickCheckOf(option, OWN_CHECKS)]),
);

/** The same of a line that was read already; its columns may be typed arrays. */
export function checkStreamValue(value: unknown): LineCheck {
  const isRight = QUICK_CHECKS.get((value as { k?: unknown } | null)?.k)?.(value) === true;
  if (isRight) return { ok: true, line: value as StreamLine };
  const result = streamLineSchema.safeParse(value);
  if (result.success) return { ok: true, line: result.data };
  const issue = result.error.issues[0];
  const where = issue !== undefined && issue.path.length > 0 ? ` at "${issue.path.join('.')}"` : '';
  return { ok: false, why: `expected a line of ${STREAM_SCHEMA}${where}: ${issue?.message ?? 'not understood'}` };
}
