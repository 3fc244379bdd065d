/** Numbers of one class's objects: their names, and where each begins in the bytes that are kept of an object. */
export interface BasicFields {
  readonly names: readonly string[];
  readonly types: readonly BasicType[];
  readonly offsets: readonly number[];
  /** Bytes of all of them together. */
  readonly bytes: number;
}

/** Types of what is no reference. */
export type BasicType = 'boolean' | 'char' | 'float' | 'double' | 'byte' | 'short' | 'int' | 'long';

/** What stands in the fields of objects that are no references: of as many objects as there is room for. */
export interface HeapValues {
  /** Objects, rising. */
  readonly objects: Uint32Array;
  /** Of each which fields it has, and where its bytes begin. */
  readonly fieldsOf: Uint32Array;
  readonly firstByte: Uint32Array;
  readonly fields: readonly BasicFields[];
  /** High bytes first. */
  readonly bytes: Uint8Array;
  /** Types of which it is known that every field is a reference, by index into the graph's types. */
  readonly typesWithout: ReadonlySet<number>;
}

/** Where nothing of it is told. */
export const NO_VALUES: HeapValues = {
  objects: new Uint32Array(0),
  fieldsOf: new Uint32Array(0),
  firstByte: new Uint32Array(0),
  fields: [],
  bytes: new Uint8Array(0),
  typesWithout: new Set(),
};

/** A field and what stands in it, as the language writes it down. */
export interface FieldValue {
  readonly name: string;
  readonly value: string;
}

/** What stands in an object's fields that are no references; null where nothing is kept of it. O(log n). */
export function valuesOf(values: HeapValues, object: number): readonly FieldValue[] | null {
  const place = placeOf(values.objects, object);
  if (place < 0) return null;
  const { names, types, offsets } = values.fields[values.fieldsOf[place]!]!;
  const view = new DataView(values.bytes.buffer, values.bytes.byteOffset + values.firstByte[place]!);
  return names.map((name, field) => ({ name, value: valueAt(view, offsets[field]!, types[field]!) }));
}

/** The bytes of an object's fields that are no references; null where nothing is kept of it. O(log n). */
export function valueBytes(values: HeapValues, object: number): Uint8Array | null {
  const place = placeOf(values.objects, object);
  if (place < 0) return null;
  const from = values.firstByte[place]!;
  return values.bytes.subarray(from, from + values.fields[values.fieldsOf[place]!]!.bytes);
}

function placeOf(objects: Uint32Array, object: number): number {
  let [low, high] = [0, objects.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (objects[middle]! < object) low = middle + 1;
    else high = middle;
  }
  return objects[low] === object ? low : -1;
}

function valueAt(view: DataView, at: number, type: BasicType): string {
  switch (type) {
    case 'boolean':
      return view.getUint8(at) === 0 ? 'false' : 'true';
    case 'char':
      return JSON.stringify(String.fromCharCode(view.getUint16(at)));
    case 'float':
      return String(Number(view.getFloat32(at).toPrecision(7)));
    case 'double':
      return String(view.getFloat64(at));
    case 'byte':
      return String(view.getInt8(at));
    case 'short':
      return String(view.getInt16(at));
    case 'int':
      return String(view.getInt32(at));
    case 'long':
      return String(view.getBigInt64(at));
  }
}
