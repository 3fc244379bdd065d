import { concatBytes } from '../../base/line-splitter.ts';
import { BASIC_BYTES, DumpParts, type Field, Kind, REFERENCE } from './dump-parts.ts';
import { ROOTS, RootTag } from './dump-roots.ts';
import { KeptValues } from './kept-values.ts';
import { SAMPLES_SIGN } from './sampled-objects.ts';
import { textOfBytes } from './text-of-bytes.ts';

declare const TextDecoder: new () => { decode(bytes: Uint8Array): string };

const MAGIC = 'JAVA PROFILE 1.0';
const HEADER_MOST = 64;
/** A name, or an instance, longer than this is none: a class has fewer fields. */
const MOST_NAME_BYTES = 1 << 20;
const MOST_INSTANCE_BYTES = 1 << 20;
/** Instances whose class comes after them are kept until then, so many bytes of them. */
const MOST_LATE_BYTES = 64 << 20;

/** Contents are hashed as FNV-1a does, 32 bits. */
const [HASH_START, HASH_PRIME] = [0x811c9dc5, 0x01000193];
const [CHAR, BYTE, LONG] = [5, 8, 11];
/** What is kept of a text, and of all of them together, each with what a map takes for it. */
const MOST_TEXT_BYTES = 120;
const LEAST_TEXT_BYTES = 8;
const TEXT_COST_BYTES = 80;
const MOST_TEXTS_BYTES = 48 << 20;

const Tag = { string: 0x01, loadClass: 0x02, heap: 0x0c, heapSegment: 0x1c } as const;

interface LateInstance {
  readonly row: number;
  readonly ofClass: number;
  readonly bytes: Uint8Array;
}

/** Reads a JVM's heap dump, in chunks cut anywhere, into `parts`. What follows a defect is not read. */
export class DumpReader {
  readonly parts = new DumpParts();
  /** The numbers of instances whose class came before them. */
  values = new KeptValues(this.parts, 0);
  readonly rootKinds: string[] = [...new Set([...ROOTS.values()].map(([words]) => words))];
  /** What is wrong with the dump, and where; '' while nothing is. */
  problem = '';
  /** Instances of which no references are known, since their class never came, or too late. */
  unread = 0;
  takenAtMs = NaN;
  private rest: Uint8Array = new Uint8Array(0);
  private bytes: Uint8Array = this.rest;
  private view: DataView = new DataView(new ArrayBuffer(0));
  private at = 0;
  /** Bytes of the input before `bytes`. */
  private before = 0;
  private idBytes = 0;
  /** Bytes left of the segment that is read; 0 between records. */
  private segment = 0;
  private skip = 0;
  private elements = 0;
  /** Bytes left of the array of basic values that is read, what was made of those before, and whether one was not 0. */
  private contentBytes = 0;
  private hash = HASH_START;
  private isBlank = true;
  /** The next bytes are the first of an array that may be a string's. */
  private beginsText = false;
  private textBytes = 0;
  /** Bytes of the array that tells which objects were sampled, as far as they came; null while it is another. */
  private kept: Uint8Array[] | null = null;
  private readonly strings = new Map<number, string>();
  private readonly late: LateInstance[] = [];
  private lateBytes = 0;
  private readonly decoder = new TextDecoder();

  write(chunk: Uint8Array): void {
    if (this.problem !== '') return;
    this.bytes = this.rest.length === 0 ? chunk : concatBytes([this.rest, chunk]);
    this.view = new DataView(this.bytes.buffer, this.bytes.byteOffset, this.bytes.byteLength);
    this.at = 0;
    while (this.problem === '' && this.step()) continue;
    this.before += this.at;
    this.rest = this.bytes.slice(this.at);
  }

  end(): void {
    const isWithin = this.segment > 0 || this.skip > 0 || this.elements > 0 || this.contentBytes > 0;
    if (this.problem === '' && (this.rest.length > 0 || isWithin))
      this.problem = `it is cut off after ${(this.before + this.rest.length).toLocaleString('en')} bytes`;
    for (const { row, ofClass, bytes } of this.late) this.addLate(row, ofClass, bytes);
    this.rest = this.bytes = new Uint8Array(0);
  }

  // One record, or as much of it as is here. False when more bytes are needed.
  private step(): boolean {
    if (this.skip > 0) return this.skipOver();
    if (this.elements > 0) return this.readElements();
    if (this.contentBytes > 0) return this.readContent();
    if (this.idBytes === 0) return this.readHeader();
    return this.segment > 0 ? this.readPart() : this.readRecord();
  }

  private has(bytes: number): boolean {
    return this.bytes.length - this.at >= bytes;
  }

  private id(at: number): number {
    if (this.idBytes === 4) return this.view.getUint32(at);
    return this.view.getUint32(at) * 2 ** 32 + this.view.getUint32(at + 4);
  }

  private skipOver(): boolean {
    const bytes = Math.min(this.skip, this.bytes.length - this.at);
    this.at += bytes;
    this.skip -= bytes;
    return this.skip === 0;
  }

  // What is in an array is not kept, but for a number by which equal ones are found.
  private readContent(): boolean {
    const from = this.at;
    const to = Math.min(this.bytes.length, from + this.contentBytes);
    if (this.beginsText && to - from >= Math.min(this.contentBytes, LEAST_TEXT_BYTES)) this.keepText(from, to);
    let { hash, isBlank } = this;
    for (let at = from; at < to; at++) {
      const byte = this.bytes[at]!;
      if (byte !== 0) isBlank = false;
      hash = Math.imul(hash ^ byte, HASH_PRIME);
    }
    this.kept?.push(this.bytes.slice(from, to));
    this.at = to;
    this.contentBytes -= to - from;
    this.hash = hash;
    this.isBlank = isBlank;
    if (this.contentBytes > 0) return false;
    const row = this.parts.address.length - 1;
    if (!isBlank) this.parts.content.add(row, hash >>> 0 || 1);
    if (this.kept !== null) this.parts.sampleIds = { row, bytes: concatBytes(this.kept) };
    this.kept = null;
    return true;
  }

  // The beginning of what may be a text, unless a chunk's end cuts it short at once.
  private keepText(from: number, to: number): void {
    this.beginsText = false;
    const bytes = this.bytes.slice(from, Math.min(to, from + MOST_TEXT_BYTES));
    if ((this.textBytes += bytes.length + TEXT_COST_BYTES) > MOST_TEXTS_BYTES) return;
    this.parts.text.set(this.parts.address.length - 1, textOfBytes(bytes, this.contentBytes > bytes.length));
  }

  private readElements(): boolean {
    const here = Math.min(this.elements, Math.floor((this.bytes.length - this.at) / this.idBytes));
    for (let element = 0; element < here; element++, this.at += this.idBytes)
      this.parts.addReference(this.id(this.at), 0);
    this.elements -= here;
    return this.elements === 0;
  }

  private readHeader(): boolean {
    const end = this.bytes.indexOf(0);
    if (end < 0 || !this.has(end + 13)) {
      if (end < 0 && this.bytes.length > HEADER_MOST) this.fail('the header of a heap dump');
      return false;
    }
    const magic = this.decoder.decode(this.bytes.subarray(0, end));
    const idBytes = this.view.getUint32(end + 1);
    if (!magic.startsWith(MAGIC) || (idBytes !== 4 && idBytes !== 8))
      return this.fail(`“${MAGIC}.x” and ids of 4 or 8 bytes`);
    this.idBytes = idBytes;
    this.values = new KeptValues(this.parts, idBytes);
    this.takenAtMs = this.view.getUint32(end + 5) * 2 ** 32 + this.view.getUint32(end + 9);
    this.at = end + 13;
    return true;
  }

  private readRecord(): boolean {
    if (!this.has(9)) return false;
    const tag = this.bytes[this.at]!;
    const length = this.view.getUint32(this.at + 5);
    if (tag === Tag.heap || tag === Tag.heapSegment) {
      this.at += 9;
      this.segment = length;
      return true;
    }
    const isName = tag === Tag.string && length <= MOST_NAME_BYTES;
    if (isName || (tag === Tag.loadClass && length === 8 + 2 * this.idBytes)) {
      if (!this.has(9 + length)) return false;
      if (isName) this.readName(this.at + 9, length);
      else this.nameClass(this.at + 9);
      this.at += 9 + length;
      return true;
    }
    this.at += 9;
    this.skip = length;
    return true;
  }

  private readName(at: number, length: number): void {
    const text = this.decoder.decode(this.bytes.subarray(at + this.idBytes, at + length));
    this.strings.set(this.id(at), text);
  }

  private nameClass(at: number): void {
    const address = this.id(at + 4);
    const of = this.parts.classes[this.parts.classIndex(address)]!;
    of.name = (this.strings.get(this.id(at + 8 + this.idBytes)) ?? '').replaceAll('/', '.');
  }

  private readPart(): boolean {
    if (!this.has(1)) return false;
    const from = this.at;
    const tag = this.bytes[from]!;
    const bytes = this.partBytes(tag, from + 1);
    if (bytes === 0) return false;
    if (bytes < 0) return this.fail(`a part of a heap dump, found tag ${tag}`);
    this.at = from + bytes;
    this.segment -= bytes + this.skip + this.elements * this.idBytes + this.contentBytes;
    return this.segment < 0 ? this.fail('the end of a segment after its last part') : true;
  }

  // Bytes of a part's head, which is read; 0 when more are needed, −1 for none that is known.
  private partBytes(tag: number, at: number): number {
    const id = this.idBytes;
    switch (tag) {
      case 0x20:
        return this.readClass(at);
      case 0x21:
        return this.readInstance(at);
      case 0x22: {
        if (!this.has(9 + 2 * id)) return 0;
        const count = this.view.getUint32(at + id + 4);
        this.parts.addObject(this.id(at), Kind.references, this.parts.classIndex(this.id(at + id + 8)), count);
        this.elements = count;
        return 9 + 2 * id;
      }
      case 0x23: {
        if (!this.has(10 + id)) return 0;
        const count = this.view.getUint32(at + id + 4);
        const type = this.bytes[at + id + 8]!;
        if (type < 4 || type > 11) return -1;
        const isNamed = type === LONG && count > 0;
        if (isNamed && !this.has(10 + id + SAMPLES_SIGN.length)) return 0;
        this.parts.addObject(this.id(at), type, 0, count);
        this.contentBytes = count * BASIC_BYTES[type]!;
        this.hash = HASH_START;
        this.isBlank = true;
        this.beginsText = (type === BYTE || type === CHAR) && count > 0;
        if (isNamed && SAMPLES_SIGN.every((byte, place) => this.bytes[at + id + 9 + place] === byte)) this.kept = [];
        return 10 + id;
      }
      default:
        return this.readRoot(tag, at);
    }
  }

  private readRoot(tag: number, at: number): number {
    const root = ROOTS.get(tag);
    if (root === undefined) return -1;
    const [words, more, moreIds] = root;
    const bytes = 1 + this.idBytes * (1 + moreIds) + more;
    if (!this.has(bytes)) return 0;
    this.parts.rootAddress.add(this.id(at));
    this.parts.rootKind.add(this.rootKinds.indexOf(words));
    // Threads are numbered, and their frames told by that number.
    if (tag === RootTag.thread) this.parts.threads.set(this.view.getUint32(at + this.idBytes), this.id(at));
    this.parts.rootThread.add(tag === RootTag.frame ? this.view.getUint32(at + this.idBytes) : 0);
    return bytes;
  }

  private readInstance(at: number): number {
    const id = this.idBytes;
    if (!this.has(9 + 2 * id)) return 0;
    const data = at + 8 + 2 * id;
    const length = this.view.getUint32(data - 4);
    if (length > MOST_INSTANCE_BYTES) return -1;
    if (!this.has(data - this.at + length)) return 0;
    const ofClass = this.parts.classIndex(this.id(at + 4 + id));
    this.parts.addObject(this.id(at), Kind.instance, ofClass, 0);
    const references = this.parts.referencesOf(this.parts.classes[ofClass]!, id);
    if (references === null) this.keepLate(ofClass, data, length);
    else {
      for (let at = 0; at < references.offsets.length; at++) {
        const offset = references.offsets[at]!;
        if (offset + id <= length) this.parts.addReference(this.id(data + offset), references.names[at]!);
      }
      this.values.add(ofClass, this.bytes, data, length);
    }
    return 9 + 2 * id + length;
  }

  // Its references are told at the end, by an object of their own that stands in for it.
  private keepLate(ofClass: number, at: number, length: number): void {
    if ((this.lateBytes += length) > MOST_LATE_BYTES) this.unread++;
    else this.late.push({ row: this.parts.address.length - 1, ofClass, bytes: this.bytes.slice(at, at + length) });
  }

  private addLate(row: number, ofClass: number, bytes: Uint8Array): void {
    const references = this.parts.referencesOf(this.parts.classes[ofClass]!, this.idBytes);
    if (references === null) {
      this.unread++;
      return;
    }
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const { offsets, names } = references;
    const known = offsets.flatMap((offset, at) =>
      offset + this.idBytes <= bytes.length ? [{ to: this.id(offset), name: names[at]! }] : [],
    );
    this.lateReferences.push({ row, known });
  }

  /** References of objects whose class came after them, by the row of the object. */
  readonly lateReferences: { readonly row: number; readonly known: readonly { to: number; name: number }[] }[] = [];

  private readClass(at: number): number {
    const id = this.idBytes;
    const end = this.classEnd(at);
    if (end === 0) return 0;
    const index = this.parts.classIndex(this.id(at));
    const of = this.parts.classes[index]!;
    of.row = this.parts.address.length;
    of.superAddress = this.id(at + id + 4);
    of.loaderAddress = this.id(at + 2 * id + 4);
    this.parts.addObject(of.address, Kind.class, index, 0);
    const named = ['super', 'loader', 'signers', 'protection domain'] as const;
    named.forEach((name, place) => this.parts.addReference(this.id(at + id + 4 + place * id), this.parts.nameId(name)));
    const fieldsAt = this.readStatics(of, at + 7 * id + 8);
    of.fields = this.readFields(fieldsAt);
    return end - at + 1;
  }

  // Statics follow the constants of the pool, which HotSpot leaves out. Answers where the fields begin.
  private readStatics(of: { staticBytes: number; staticReferences: number }, poolAt: number): number {
    let at = this.afterPool(poolAt);
    const count = this.view.getUint16(at);
    at += 2;
    for (let field = 0; field < count; field++) {
      const name = this.strings.get(this.id(at)) ?? '(no name)';
      const type = this.bytes[at + this.idBytes]!;
      const valueAt = at + this.idBytes + 1;
      if (type === REFERENCE) {
        of.staticReferences++;
        this.parts.addReference(this.id(valueAt), this.parts.nameId(name));
      } else of.staticBytes += BASIC_BYTES[type]!;
      at = valueAt + this.valueBytes(type);
    }
    return at;
  }

  private readFields(from: number): Field[] {
    const count = this.view.getUint16(from);
    return Array.from({ length: count }, (_, field) => {
      const at = from + 2 + field * (this.idBytes + 1);
      return { name: this.strings.get(this.id(at)) ?? '(no name)', type: this.bytes[at + this.idBytes]! };
    });
  }

  private valueBytes(type: number): number {
    return type === REFERENCE ? this.idBytes : (BASIC_BYTES[type] ?? 0);
  }

  private afterPool(poolAt: number): number {
    let at = poolAt + 2;
    for (let constants = this.view.getUint16(poolAt); constants > 0; constants--)
      at += 3 + this.valueBytes(this.bytes[at + 2]!);
    return at;
  }

  // Where a class's part ends; 0 when that is not here yet.
  private classEnd(at: number): number {
    const here = (to: number): boolean => to <= this.bytes.length;
    let end = at + 7 * this.idBytes + 8;
    for (const [each, named] of [
      [2, false],
      [this.idBytes, true],
    ] as const) {
      if (!here(end + 2)) return 0;
      const count = this.view.getUint16(end);
      end += 2;
      for (let one = 0; one < count; one++) {
        if (!here(end + each + 1)) return 0;
        end += each + 1 + this.valueBytes(this.bytes[end + each]!);
      }
      if (named && !here(end + 2)) return 0;
    }
    end += 2 + this.view.getUint16(end) * (this.idBytes + 1);
    return here(end) ? end : 0;
  }

  private fail(expected: string): false {
    this.problem = `at byte ${(this.before + this.at).toLocaleString('en')} ${expected} was expected`;
    return false;
  }
}
