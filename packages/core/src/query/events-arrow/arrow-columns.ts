import type { Dictionary, Int32 } from 'apache-arrow';
import {
  Bool,
  Float32,
  Float64,
  makeData,
  makeVector,
  Uint32,
  Utf8,
  type Data,
  type DataType,
  type Vector,
} from 'apache-arrow';
import { NONE } from '../../base/ids.ts';

/**
 * Columns are put together from typed arrays: the library's own builders compile code at run time, which the page's
 * policy forbids.
 */

/** Floats of which NaN is null; the array is the column's from then on. */
export function floatData(values: Float64Array): Data<Float64>;
export function floatData(values: Float32Array): Data<Float32>;
export function floatData(values: Float64Array | Float32Array): Data<Float64 | Float32> {
  const { nullBitmap, nullCount } = present(values.length, (row) => values[row] === values[row]);
  const base = { length: values.length, nullCount, nullBitmap };
  return values instanceof Float64Array
    ? makeData({ ...base, type: new Float64(), data: values })
    : makeData({ ...base, type: new Float32(), data: values });
}

/** Ids of which NONE is null. */
export function idData(values: Uint32Array): Data<Uint32> {
  return makeData({
    type: new Uint32(),
    length: values.length,
    ...present(values.length, (row) => values[row] !== NONE),
    data: values,
  });
}

/** A column of flags. */
export function boolData(values: Uint8Array): Data<Bool> {
  const bits = new Uint8Array(bitmapBytes(values.length));
  for (let row = 0; row < values.length; row++) if (values[row] !== 0) bits[row >> 3]! |= 1 << (row & 7);
  return makeData({ type: new Bool(), length: values.length, nullCount: 0, data: bits });
}

/** Texts by index, −1 for null. */
export function textData(
  type: Dictionary<Utf8, Int32>,
  dictionary: Vector<Utf8>,
  indices: Int32Array,
): Data<Dictionary<Utf8, Int32>> {
  return makeData({
    type,
    length: indices.length,
    ...present(indices.length, (row) => indices[row]! >= 0),
    data: indices,
    dictionary,
  });
}

/** A column without a single value. */
export function nullData(type: DataType, length: number, dictionary: Vector<Utf8> | null): Data {
  const nullBitmap = new Uint8Array(bitmapBytes(length));
  const base = { length, nullCount: length, nullBitmap };
  if (dictionary !== null)
    return makeData({ ...base, type: type as Dictionary<Utf8, Int32>, data: new Int32Array(length), dictionary });
  if (type instanceof Float32) return makeData({ ...base, type, data: new Float32Array(length) });
  if (type instanceof Uint32) return makeData({ ...base, type, data: new Uint32Array(length) });
  if (type instanceof Bool) return makeData({ ...base, type, data: new Uint8Array(bitmapBytes(length)) });
  return makeData({ ...base, type: new Float64(), data: new Float64Array(length) });
}

/** A dictionary of texts, each once, in order of their first appearance. */
export class TextDictionary {
  private readonly indexOf = new Map<string, number>();
  readonly texts: string[] = [];

  /** Index of a text, added when new; −1 for null. */
  add(text: string | null): number {
    if (text === null) return -1;
    const known = this.indexOf.get(text);
    if (known !== undefined) return known;
    this.indexOf.set(text, this.texts.length);
    return this.texts.push(text) - 1;
  }

  vector(): Vector<Utf8> {
    return textVector(this.texts);
  }
}

/** Plain texts as a column. */
function textVector(texts: readonly string[]): Vector<Utf8> {
  const encoder = new TextEncoder();
  const encoded = texts.map((text) => encoder.encode(text));
  const valueOffsets = new Int32Array(texts.length + 1);
  encoded.forEach((bytes, at) => {
    valueOffsets[at + 1] = valueOffsets[at]! + bytes.length;
  });
  const data = new Uint8Array(valueOffsets[texts.length]!);
  encoded.forEach((bytes, at) => data.set(bytes, valueOffsets[at]!));
  return makeVector(makeData({ type: new Utf8(), length: texts.length, nullCount: 0, valueOffsets, data }));
}

function present(
  length: number,
  has: (row: number) => boolean,
): { nullBitmap: Uint8Array | undefined; nullCount: number } {
  const nullBitmap = new Uint8Array(bitmapBytes(length));
  let nullCount = 0;
  for (let row = 0; row < length; row++) {
    if (has(row)) nullBitmap[row >> 3]! |= 1 << (row & 7);
    else nullCount++;
  }
  // A column without nulls needs none.
  return nullCount === 0 ? { nullBitmap: undefined, nullCount } : { nullBitmap, nullCount };
}

// Bits are padded to eight bytes, as the format lays them out.
function bitmapBytes(length: number): number {
  return Math.ceil(length / 64) * 8;
}
