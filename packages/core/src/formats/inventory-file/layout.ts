import { z } from 'zod';

/**
 * An inventory as bytes, so that it travels and is kept with a recording: objects, who refers to whom, and which were
 * sampled; no values.
 *
 *     bytes 0–7      `HERONINV`
 *     8              version, 1
 *     9–12           length of the head in bytes, u32, little-endian
 *     13–            the head: JSON in UTF-8
 *     then           the columns, one after the other, each value a varint: seven bits a byte, the lowest first, the
 *                    eighth bit set where more follow
 *
 * Columns, in this order, of `objects` values each: type, own bytes, id (difference to the one before), how many it
 * refers to, content. Of `edges` values each: what is referred to (difference to the object that refers), name. Of
 * `roots` values each: object, kind. Of `sampled` values each: object and source id (differences to the one before).
 * Differences may be negative: 2n for n ≥ 0, −2n − 1 below.
 */
export const INVENTORY_MAGIC = 'HERONINV';
/** Version of the layout: one of another version is not read. */
export const INVENTORY_VERSION = 1;
/** Where the head begins, in bytes. */
export const INVENTORY_HEAD_AT = 13;

const count = z.number().int().nonnegative().max(0xffffffff);

/** The head of an inventory's bytes. */
export const inventoryHead = z.object({
  source: z.enum(['jvm', 'v8']),
  takenEpochMs: z.number().nullable(),
  defects: z.array(z.string()),
  notes: z.array(z.string()),
  objects: count,
  edges: count,
  roots: count,
  sampled: count,
  oneIn: count.min(1),
  referenceBytes: z.number().nullable(),
  types: z.array(z.string()),
  /** Ids of types of the runtime's library. */
  library: z.array(count),
  names: z.array(z.string()).min(1),
  rootKinds: z.array(z.string()),
  ownNames: z.array(z.tuple([count, z.string()])),
});

export type InventoryHead = z.infer<typeof inventoryHead>;
