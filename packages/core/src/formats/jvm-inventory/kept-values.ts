import { growableWords } from '../../base/growable-column.ts';
import type { BasicFields, BasicType, HeapValues } from '../../model/heap-values.ts';
import { BASIC_BYTES, BASIC_NAMES, type DumpClass, type DumpParts, LIBRARY, REFERENCE } from './dump-parts.ts';

/** Room for what is kept of the library's objects, and of all others: their numbers, and where these lie. */
const ROOM_BYTES = { library: 16 << 20, own: 48 << 20 };
const PLACE_BYTES = 12;
const FIRST_BYTES = 1 << 16;
/** Strings and what tables are made of, of which nobody asks for the hash. */
const UNASKED = /^java\.lang\.String$|\$(?:Node|Entry|TreeNode)$/;

interface KeptFields extends BasicFields {
  /** Where each field's bytes lie in an instance of the dump. */
  readonly givenOffsets: readonly number[];
  readonly widths: readonly number[];
  readonly room: keyof typeof ROOM_BYTES;
}

/** Keeps the numbers of instances, as far as there is room. */
export class KeptValues {
  private readonly parts: DumpParts;
  private readonly idBytes: number;
  /** By index of class; −1 for one of which nothing is kept. */
  private readonly fieldsOfClass: number[] = [];
  private readonly fields: KeptFields[] = [];
  private readonly left = { ...ROOM_BYTES };
  private readonly objects = growableWords();
  private readonly fieldsOf = growableWords();
  private readonly firstByte = growableWords();
  private bytes = new Uint8Array(FIRST_BYTES);
  private used = 0;

  constructor(parts: DumpParts, idBytes: number) {
    this.parts = parts;
    this.idBytes = idBytes;
  }

  /** Takes the instance that came last, whose `length` bytes begin at `at`; its class and those above it are known. */
  add(ofClass: number, given: Uint8Array, at: number, length: number): void {
    const known = (this.fieldsOfClass[ofClass] ??= this.fieldsOfNew(this.parts.classes[ofClass]!));
    if (known < 0) return;
    const { givenOffsets, widths, bytes, room } = this.fields[known]!;
    const last = givenOffsets.length - 1;
    if (this.left[room] < bytes + PLACE_BYTES || givenOffsets[last]! + widths[last]! > length) return;
    this.left[room] -= bytes + PLACE_BYTES;
    this.objects.add(this.parts.address.length - 1);
    this.fieldsOf.add(known);
    this.firstByte.add(this.used);
    if (this.used + bytes > this.bytes.length) this.grow(bytes);
    const into = this.bytes;
    let to = this.used;
    for (let field = 0; field < widths.length; field++) {
      const from = at + givenOffsets[field]!;
      const end = from + widths[field]!;
      for (let byte = from; byte < end; byte++) into[to++] = given[byte]!;
    }
    this.used = to;
  }

  private grow(bytes: number): void {
    const next = new Uint8Array(Math.max(this.used + bytes, 2 * this.bytes.length));
    next.set(this.bytes);
    this.bytes = next;
  }

  /** What was kept; `typeOf` is the type of each class. */
  take(typeOf: Uint32Array): HeapValues {
    const typesWithout = new Set<number>();
    const typesWith = new Set<number>();
    this.parts.classes.forEach((of, index) => {
      const chain = this.parts.chainOf(of);
      const isWithout =
        !hidesWhatItRefersTo(chain) &&
        chain.every(({ fields }) => fields?.every(({ type }) => type === REFERENCE) === true);
      (isWithout ? typesWithout : typesWith).add(typeOf[index]!);
    });
    for (const type of typesWith) typesWithout.delete(type);
    return {
      typesWithout,
      objects: this.objects.take(),
      fieldsOf: this.fieldsOf.take(),
      firstByte: this.firstByte.take(),
      fields: this.fields.map(({ names, types, offsets, bytes }) => ({ names, types, offsets, bytes })),
      bytes: this.bytes.slice(0, this.used),
    };
  }

  private fieldsOfNew(of: DumpClass): number {
    if (UNASKED.test(of.name) || hidesWhatItRefersTo(this.parts.chainOf(of))) return -1;
    const names: string[] = [];
    const types: BasicType[] = [];
    const [offsets, givenOffsets, widths]: [number[], number[], number[]] = [[], [], []];
    let [bytes, given] = [0, 0];
    for (const { fields } of this.parts.chainOf(of))
      for (const { name, type } of fields ?? []) {
        const width = type === REFERENCE ? this.idBytes : (BASIC_BYTES[type] ?? 0);
        if (type !== REFERENCE && width > 0) {
          names.push(name);
          types.push(BASIC_NAMES[type] as BasicType);
          offsets.push(bytes);
          givenOffsets.push(given);
          widths.push(width);
          bytes += width;
        }
        given += width;
      }
    if (names.length === 0) return -1;
    const room = LIBRARY.test(of.name) ? 'library' : 'own';
    return this.fields.push({ names, types, offsets, bytes, givenOffsets, widths, room }) - 1;
  }
}

// What a weak reference is to is not in the graph: what is known of it is not all that is in it.
function hidesWhatItRefersTo(chain: readonly DumpClass[]): boolean {
  return chain.some(({ name }) => name === 'java.lang.ref.Reference');
}
