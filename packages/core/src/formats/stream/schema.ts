import { z } from 'zod';
import { STREAM_SCHEMA, type StreamLine } from './layout.ts';

const time = z.number().finite();
const bytes = z.number().nonnegative().finite();
const id = z.number().int().nonnegative();
const ids = column({ least: 0, whole: true }, 'ids, whole numbers from 0');
const sizes = column({ least: 0 }, 'bytes, numbers from 0');
const text = z.string().max(4096);
const heap = { h: z.string().min(1).max(100) };
const scope = z.enum(['young', 'mixed', 'whole']);
const interval = { from: time, to: time };

/** Contract of one line of the open stream; unknown members are ignored, so that version 1 can grow. */
export const streamLineSchema = z.discriminatedUnion('k', [
  z.object({
    k: z.literal('hello'), schema: z.literal(STREAM_SCHEMA), ...heap, epochMs: time, program: text, runtime: text,
    collector: text.optional(), heapName: text.optional(), pid: id.optional(),
    interval: z.number().positive().optional(), limit: z.number().positive().optional(),
    attached: z.boolean().optional(), clockMs: time.optional(), log: z.literal('jvm-unified').optional(), own: z.array(text).max(1000).optional(),
    births: z.enum(['all', 'some']).optional(), inlined: z.boolean().optional(),
  }),
  z.object({ k: z.literal('name'), ...heap, name: text }),
  z.object({ k: z.literal('frames'), ...heap, first: id, fn: z.array(text), file: z.array(text), line: ids, col: ids })
    .refine((l) => same(l.fn, l.file, l.line, l.col), 'fn, file, line and col must be equally long'),
  z.object({ k: z.literal('paths'), ...heap, first: id, parent: column({ least: -1, whole: true }, 'ids, whole numbers from -1'), frame: ids })
    .refine((l) => same(l.parent, l.frame), 'parent and frame must be equally long'),
  z.object({ k: z.literal('places'), ...heap, frame: ids, file: z.array(text), line: ids, col: ids })
    .refine((l) => same(l.frame, l.file, l.line, l.col), 'frame, file, line and col must be equally long'),
  z.object({ k: z.literal('types'), ...heap, first: id, name: z.array(text), outside: ids.optional() })
    .refine((l) => same(l.name, l.outside), 'name and outside must be equally long'),
  z.object({ k: z.literal('threads'), ...heap, first: id, name: z.array(text) }),
  z.object({
    k: z.literal('born'), ...heap, ...interval, id: ids, path: ids, size: sizes, at: column({}, 'times, finite numbers').optional(),
    p: column({ least: Number.MIN_VALUE, most: 1 }, 'probabilities above 0, up to 1').optional(), interval: z.number().positive().optional(), type: ids.optional(), thread: ids.optional(),
  }).refine((l) => same(l.id, l.path, l.size, l.at, l.p, l.type, l.thread), 'the columns must be equally long'),
  z.object({ k: z.literal('died'), ...heap, ...interval, id: ids }),
  z.object({
    k: z.literal('flow'), ...heap, ...interval, path: ids, bytes: sizes, se: sizes.optional(), count: sizes.optional(), inferred: z.boolean().optional(),
  }).refine((l) => same(l.path, l.bytes, l.se, l.count), 'the columns must be equally long'),
  z.object({
    k: z.literal('gc'), ...heap, t: time, ms: bytes, scope, label: text, cause: text.optional(),
    before: bytes.optional(), after: bytes.optional(), capacity: bytes.optional(), own: z.boolean().optional(),
    explicit: z.boolean().optional(), spaces: z.array(z.tuple([text, bytes, bytes])).max(100).optional(),
    pools: z.array(z.tuple([text, bytes])).max(100).optional(),
  }),
  z.object({ k: z.literal('pause'), ...heap, t: time, ms: bytes, scope, label: text, own: z.boolean().optional() }),
  z.object({
    k: z.literal('size'), ...heap, t: time, used: bytes, committed: bytes.optional(), external: bytes.optional(),
    resident: bytes.optional(),
  }),
  z.object({ k: z.literal('mark'), ...heap, t: time, label: text, by: z.enum(['program', 'page', 'recorder']) }),
  z.object({ k: z.literal('phase'), ...heap, t: time, kind: z.enum(['births', 'survivors', 'objects', 'deaths', 'blind']) }),
  z.object({ k: z.literal('look'), ...heap, ...interval, taken: bytes, seen: bytes, reads: bytes, ms: bytes }),
  z.object({ k: z.literal('silence'), ...heap, ...interval }),
  z.object({ k: z.literal('interval'), ...heap, t: time, bytes: z.number().positive() }),
  z.object({ k: z.literal('log'), ...heap, upto: bytes, text: z.string().max(1024 * 1024) }),
  z.object({ k: z.literal('poll'), ...heap, t: time, ms: bytes, taken: bytes.optional() }),
  z.object({ k: z.literal('src'), ...heap, file: text, line: id, first: id, text: z.array(text).max(200) }),
  z.object({ k: z.literal('note'), ...heap, t: time, code: text, message: text }),
  z.object({ k: z.literal('bye'), ...heap, t: time, reason: text, live: bytes.optional() }),
]);

/**
 * Many numbers, each within bounds. Zod's own array calls a check for every one, which took most of the time of reading a large
 * recording; this is one loop (bench/streams.bench.mjs).
 */
function column({ least = -Number.MAX_VALUE, most = Number.MAX_VALUE, whole = false }: { least?: number; most?: number; whole?: boolean }, expected: string) {
  return z.custom<number[]>(Array.isArray, `expected an array of ${expected}`).check(({ value, issues }) => {
    for (let at = 0; at < value.length; at++) {
      const each: unknown = value[at];
      if (typeof each === 'number' && each >= least && each <= most && (!whole || Number.isSafeInteger(each))) continue;
      issues.push({ code: 'custom', message: `expected ${expected}`, input: each, path: [at] });
      return;
    }
  });
}

function same(...columns: (readonly unknown[] | undefined)[]): boolean {
  const length = columns[0]?.length;
  return columns.every((column) => column === undefined || column.length === length);
}

export type LineCheck = { readonly ok: true; readonly line: StreamLine } | { readonly ok: false; readonly why: string };

/** Reads one line of text against the contract; never throws. */
export function checkStreamLine(text: string): LineCheck {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return { ok: false, why: 'expected one JSON object; is the line cut off?' };
  }
  const result = streamLineSchema.safeParse(value);
  if (result.success) return { ok: true, line: result.data };
  const issue = result.error.issues[0];
  const where = issue !== undefined && issue.path.length > 0 ? ` at "${issue.path.join('.')}"` : '';
  return { ok: false, why: `expected a line of ${STREAM_SCHEMA}${where}: ${issue?.message ?? 'not understood'}` };
}
