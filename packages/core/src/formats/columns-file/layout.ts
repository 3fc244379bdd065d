import { z } from 'zod';

/**
 * A recording's columns as one binary file, beside the source's bytes, so that opening it again is reading and not
 * parsing. It is derived from them alone: a reader that finds another version, another checksum or another source drops
 * it, and reads the source.
 *
 *     bytes 0–7      `HERONCOL`
 *     8–11           version, u32
 *     12–15          checksum of all that follows, u32 (columnSum)
 *     16–19          length of the head in bytes, u32
 *     20–            the head: JSON in UTF-8, then blanks up to a multiple of 8
 *     then           the columns, each beginning at a multiple of 8, in the order of the head; little-endian
 *
 * Columns have as many elements as their table has rows. A change of any table's schema makes another version, by the
 * fingerprint in the head.
 */
export const COLUMNS_MAGIC = 'HERONCOL';
/** Version of the layout: a file of another one is dropped. */
export const COLUMNS_VERSION = 1;
/** Where the head begins, in bytes. */
export const HEAD_AT = 20;
const ALIGNMENT = 8;

const nullable = z.number().nullable();

const heapHead = z.object({
  name: z.string(),
  runtime: z.string(),
  samplingIntervalBytes: nullable,
  limitBytes: nullable,
  startsEmpty: z.boolean(),
  liveAtEnd: nullable,
  endMs: nullable,
  outOfMemoryMs: nullable,
  seesAllBirths: z.boolean(),
  mayInline: z.boolean(),
});

const runHead = z.object({
  facts: z.object({
    format: z.string(),
    program: z.string(),
    runtime: z.string(),
    collector: z.string(),
    startEpochMs: nullable,
    durationMs: z.number(),
    containerLimitBytes: nullable,
    missing: z.string(),
    ended: z.boolean(),
    hasClock: z.boolean(),
    freesConcurrently: z.boolean(),
    bytes: z.number(),
    lines: z.number(),
  }),
  heaps: z.array(heapHead),
  strings: z.array(z.string()),
  issues: z.object({
    count: z.number(),
    byCode: z.array(z.tuple([z.string(), z.number()])),
    first: z.array(z.object({ code: z.string(), line: z.number(), byteOffset: nullable, message: z.string() })),
  }),
  notes: z.array(z.object({ tMs: z.number(), code: z.string(), message: z.string() })),
  thinnings: z.array(z.object({ beforeMs: z.number(), removed: z.number(), level: z.number() })),
  excerpts: z.array(z.tuple([z.string(), z.object({ firstLine: z.number(), lines: z.array(z.string()) })])),
  ownPrefixes: z.array(z.string()),
  outsideTypes: z.array(z.number()),
  /** Rows of each table, in the order of the tables. */
  rows: z.array(z.number().int().min(0)),
});

/** What the head of a file of columns holds. */
export const columnsHead = z.object({
  /** Names and kinds of all tables' columns: a file of other tables is of no use. */
  fingerprint: z.string(),
  /** Of the source: its length, how many bytes a mark takes at its beginning, and whether a character takes two. */
  source: z.object({ bytes: z.number(), markBytes: z.number(), isWide: z.boolean(), littleEndian: z.boolean() }),
  runs: z.array(runHead),
});

export type ColumnsHead = z.infer<typeof columnsHead>;
/** What the head says of one run. */
export type RunHead = ColumnsHead['runs'][number];
/**
 * Checksum of bytes from a place on, as 32-bit words in four lanes that are multiplied and mixed, so that a word that
 * changed, moved or is missing changes it. Some gigabytes a second; no protection against intent.
 */
export function columnSum(bytes: Uint8Array, from: number): number {
  const words = new Uint32Array(bytes.buffer, bytes.byteOffset + from, (bytes.length - from) >>> 2);
  const lanes = new Uint32Array([0x9e3779b1, 0x85ebca6b, 0xc2b2ae35, 0x27d4eb2f]);
  let [a, b, c, d] = [lanes[0]!, lanes[1]!, lanes[2]!, lanes[3]!];
  const whole = words.length & ~3;
  for (let at = 0; at < whole; at += 4) {
    a = Math.imul(a ^ words[at]!, 0x01000193) | 0;
    b = Math.imul(b ^ words[at + 1]!, 0x01000193) | 0;
    c = Math.imul(c ^ words[at + 2]!, 0x01000193) | 0;
    d = Math.imul(d ^ words[at + 3]!, 0x01000193) | 0;
  }
  for (let at = whole; at < words.length; at++) a = Math.imul(a ^ words[at]!, 0x01000193) | 0;
  for (let at = from + words.length * 4; at < bytes.length; at++) b = Math.imul(b ^ bytes[at]!, 0x01000193) | 0;
  let sum = bytes.length;
  for (const lane of [a, b, c, d]) {
    sum = Math.imul(sum ^ lane, 0x85ebca6b);
    sum ^= sum >>> 15;
  }
  return sum >>> 0;
}

/** The next multiple of the alignment. */
export function aligned(offset: number): number {
  return Math.ceil(offset / ALIGNMENT) * ALIGNMENT;
}
