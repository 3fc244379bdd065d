import { growableBytes, type Growing, growableNumbers, growableWords } from '../../base/growable-column.ts';
import { ELEMENT_NAME } from '../../model/heap-graph.ts';
import type { FieldSizes } from './object-sizes.ts';

/** Kinds of object in a dump; from 4 on, arrays of the basic type that the format numbers so. */
export const Kind = { class: 0, instance: 1, references: 2 } as const;
/** The type of a reference, in the format's numbers of basic types. */
export const REFERENCE = 2;
/** Bytes of the basic types 4 to 11; of a reference nothing, since that depends on the JVM. */
export const BASIC_BYTES: readonly number[] = [0, 0, 0, 0, 1, 2, 4, 8, 1, 2, 4, 8];
/** What they are called; '' for those that are no basic types. */
export const BASIC_NAMES = ['', '', '', '', 'boolean', 'char', 'float', 'double', 'byte', 'short', 'int', 'long'];

/** Types of the runtime's library, and arrays of basic values. */
export const LIBRARY =
  /^(?:java|javax|jdk|sun|com\.sun|org\.graalvm)\.|^(?:boolean|char|float|double|byte|short|int|long)\[/;

/** A field that a class declares: its name and basic type. */
export interface Field {
  readonly name: string;
  readonly type: number;
}

/** References in an instance's bytes, as they follow each other. */
export interface References {
  readonly offsets: readonly number[];
  /** Names, as ids of edges. */
  readonly names: readonly number[];
}

/** What a dump tells of a class; of one that is only named, nothing but its name. */
export class DumpClass {
  readonly address: number;
  name = '';
  superAddress = 0;
  loaderAddress = 0;
  fields: readonly Field[] | null = null;
  staticBytes = 0;
  staticReferences = 0;
  /** Row of the class among the objects; −1 before it came. */
  row = -1;
  references: References | null = null;

  constructor(address: number) {
    this.address = address;
  }
}

/** Numbers of some rows, which come in rising order. */
class RowNumbers {
  private readonly rows = growableWords();
  private readonly numbers = growableWords();

  add(row: number, value: number): void {
    this.rows.add(row);
    this.numbers.add(value);
  }

  /** One for each row, 0 for the others. */
  take(length: number): Uint32Array {
    const all = new Uint32Array(length);
    const [rows, numbers] = [this.rows.take(), this.numbers.take()];
    rows.forEach((row, at) => (all[row] = numbers[at]!));
    return all;
  }
}

/** What was read of a dump so far: objects in the order they came, with the addresses that they refer to. */
export class DumpParts {
  readonly classes: DumpClass[] = [];
  private readonly classAt = new Map<number, number>();
  readonly names: string[] = [ELEMENT_NAME];
  private readonly nameIds = new Map<string, number>([[ELEMENT_NAME, 0]]);

  readonly address: Growing<Float64Array> = growableNumbers();
  readonly kind = growableBytes();
  /** Of instances and arrays of references the index of their class, of others 0. */
  readonly ofClass = growableWords();
  /** Elements of arrays. */
  readonly count = growableWords();
  readonly firstEdge = growableWords();
  readonly target = growableNumbers();
  readonly edgeName = growableWords();
  readonly rootAddress = growableNumbers();
  readonly rootKind = growableWords();
  /** Number of the thread whose frame a root is; 0 for others. */
  readonly rootThread = growableWords();
  /** Addresses of threads, by their numbers. */
  readonly threads = new Map<number, number>();
  /** What is in the arrays of basic values, by row (HeapGraph.content). */
  readonly content = new RowNumbers();
  /** Beginnings of texts, by row of their arrays; '' for what is none. */
  readonly text = new Map<number, string>();
  /** The array that tells which objects were sampled; null where none is there. */
  sampleIds: { readonly row: number; readonly bytes: Uint8Array } | null = null;

  /** Index of a class by the address of its object; one that is not known yet is made. */
  classIndex(address: number): number {
    let index = this.classAt.get(address);
    if (index === undefined) {
      index = this.classes.length;
      this.classAt.set(address, index);
      this.classes.push(new DumpClass(address));
    }
    return index;
  }

  classNamed(address: number): DumpClass | null {
    const index = this.classAt.get(address);
    return index === undefined ? null : this.classes[index]!;
  }

  nameId(name: string): number {
    let id = this.nameIds.get(name);
    if (id === undefined) {
      id = this.names.length;
      this.nameIds.set(name, id);
      this.names.push(name);
    }
    return id;
  }

  addObject(address: number, kind: number, ofClass: number, count: number): void {
    this.address.add(address);
    this.kind.add(kind);
    this.ofClass.add(ofClass);
    this.count.add(count);
    this.firstEdge.add(this.target.length);
  }

  /** A reference of the object that was added last. */
  addReference(to: number, name: number): void {
    if (to === 0) return;
    this.target.add(to);
    this.edgeName.add(name);
  }

  /** The class and those above it, itself first; a chain that bites its tail ends. */
  chainOf(from: DumpClass): DumpClass[] {
    const chain: DumpClass[] = [];
    for (let at: DumpClass | null = from; at !== null && !chain.includes(at); at = this.classNamed(at.superAddress))
      chain.push(at);
    return chain;
  }

  /** Where the references of an instance stand in its bytes; null where a class of its chain is not known. */
  referencesOf(of: DumpClass, idBytes: number): References | null {
    if (of.references !== null) return of.references;
    const chain = this.chainOf(of);
    const kindOf = referenceKind(chain);
    const [offsets, names]: [number[], number[]] = [[], []];
    let offset = 0;
    for (const { fields, name: owner } of chain) {
      if (fields === null) return null;
      for (const { name, type } of fields) {
        if (type === REFERENCE && holds(owner, name, kindOf)) {
          offsets.push(offset);
          names.push(this.nameId(kindOf === 'soft' && name === 'referent' ? 'referent (soft)' : name));
        }
        offset += type === REFERENCE ? idBytes : (BASIC_BYTES[type] ?? 0);
      }
    }
    return (of.references = { offsets, names });
  }

  /** Sizes of the fields of a class, the highest above it first; null where a class of its chain is not known. */
  fieldSizes(of: DumpClass): FieldSizes | null {
    const chain = this.chainOf(of).reverse();
    if (chain.some(({ fields }) => fields === null)) return null;
    return chain.map(({ fields }) => fields!.map(({ type }) => BASIC_BYTES[type] ?? 0));
  }
}

type ReferenceKind = 'weak' | 'soft' | 'none';

function referenceKind(chain: readonly DumpClass[]): ReferenceKind {
  const names = chain.map(({ name }) => name);
  if (names.includes('java.lang.ref.SoftReference')) return 'soft';
  return names.includes('java.lang.ref.Reference') ? 'weak' : 'none';
}

// A weak, phantom or final reference holds nothing, and the collector's own list of references neither.
function holds(owner: string, name: string, kind: ReferenceKind): boolean {
  if (owner !== 'java.lang.ref.Reference') return true;
  return name !== 'discovered' && !(name === 'referent' && kind === 'weak');
}
