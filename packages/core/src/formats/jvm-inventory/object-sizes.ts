/**
 * How a JVM lays objects out: bytes of an object's header, of an array's with its length, of a reference, and of what an
 * object's address is a multiple of.
 */
export interface Layout {
  readonly header: number;
  readonly arrayHeader: number;
  readonly reference: number;
  readonly alignment: number;
}

/**
 * Layouts of HotSpot on machines of 64 bits: with compressed classes and references, with compact headers, without; each
 * with the alignments that can be asked for.
 */
export const LAYOUTS: readonly Layout[] = [
  { header: 12, arrayHeader: 16, reference: 4 },
  { header: 12, arrayHeader: 16, reference: 8 },
  { header: 8, arrayHeader: 12, reference: 4 },
  { header: 8, arrayHeader: 12, reference: 8 },
  { header: 16, arrayHeader: 24, reference: 8 },
  { header: 16, arrayHeader: 20, reference: 8 },
].flatMap((layout) => [8, 16, 32].map((alignment) => ({ ...layout, alignment })));

/** A size rounded up to a multiple. */
function rounded(bytes: number, multiple: number): number {
  return Math.ceil(bytes / multiple) * multiple;
}

/** Bytes of an array of so many elements; its first element begins where one of its size may. */
export function arrayBytes({ arrayHeader, alignment }: Layout, elements: number, elementBytes: number): number {
  const first = elementBytes > 4 ? rounded(arrayHeader, 8) : arrayHeader;
  return rounded(first + elements * elementBytes, alignment);
}

/** Sizes in bytes of a class's own fields, references being 0, for it and every class above it, the highest first. */
export type FieldSizes = readonly (readonly number[])[];

/**
 * Bytes of an object, by the rules of HotSpot since JDK 15: the fields of each class, the largest first, each in the
 * first gap that takes it, gaps between those of the classes above included.
 */
export function instanceBytes({ header, reference, alignment }: Layout, fields: FieldSizes): number {
  const taken: [from: number, to: number][] = [[0, header]];
  let end = header;
  for (const own of fields) {
    const sizes = own.map((size) => (size === 0 ? reference : size)).sort((a, b) => b - a);
    for (const size of sizes) end = Math.max(end, place(taken, size));
  }
  return rounded(end, alignment);
}

// Takes the first free place of a size, and answers where it ends.
function place(taken: [from: number, to: number][], size: number): number {
  for (let at = 0; ; at++) {
    const from = Math.ceil(taken[at]![1] / size) * size;
    const next = taken[at + 1];
    if (next !== undefined && from + size > next[0]) continue;
    if (from === taken[at]![1]) taken[at]![1] = from + size;
    else taken.splice(at + 1, 0, [from, from + size]);
    return from + size;
  }
}
