import type { HeapGraph, SampledObjects } from '../../model/heap-graph.ts';
import { AddressIndex, NOT_THERE } from './address-index.ts';
import { BASIC_BYTES, BASIC_NAMES, type DumpClass, type DumpParts, Kind, LIBRARY } from './dump-parts.ts';
import { ROOTS, RootTag } from './dump-roots.ts';
import type { DumpReader } from './dump-reader.ts';
import { sampledObjects } from './sampled-objects.ts';
import { arrayBytes, instanceBytes, type Layout, LAYOUTS } from './object-sizes.ts';

/** Objects that are looked at to find how the JVM lays them out. */
const MOST_TRIED = 200_000;
/** From so many neighbours on, the least distance between them is the size of a class's objects. */
const ENOUGH = 16;
/** Loaders whose classes are never unloaded. */
const LASTING_LOADERS = /^jdk\.internal\.loader\.ClassLoaders\$|^sun\.misc\.Launcher\$/;
const DESCRIPTORS: ReadonlyMap<string, string> = new Map([
  ['Z', 'boolean'],
  ['C', 'char'],
  ['F', 'float'],
  ['D', 'double'],
  ['B', 'byte'],
  ['S', 'short'],
  ['I', 'int'],
  ['J', 'long'],
]);

/** What the dump tells, as a graph, and how the JVM laid its objects out. */
export function graphOf(reader: DumpReader): {
  readonly graph: HeapGraph;
  readonly layout: Layout;
  readonly sampled: SampledObjects;
} {
  const { parts } = reader;
  const address = parts.address.take();
  const index = new AddressIndex(address);
  const { sampled, own } = sampledObjects(parts, address, index);
  const { ownBytes, layout } = ownSizes(parts, address);
  const { ofClasses, ...types } = typesOf(parts);
  const rootKinds = [...reader.rootKinds];
  const edges = edgesOf(reader, index, own);
  const graph: HeapGraph = {
    objects: address.length,
    ...edges,
    ...rootsOf(reader, index, { rootKinds, frameKind: frameKinds(parts, index, edges, rootKinds) }, new Set(own)),
    ...types,
    ownBytes,
    id: address,
    rootKinds,
    names: parts.names,
    content: parts.content.take(address.length),
    text: parts.text,
    values: reader.values.take(ofClasses),
    referenceBytes: layout.reference,
  };
  for (const row of own) ownBytes[row] = 0;
  return { graph, layout, sampled };
}

const LEFT_OUT = 2;

// References to what the dump does not have are left out, and those of some objects.
function edgesOf(reader: DumpReader, index: AddressIndex, leftOut: readonly number[]) {
  const { parts } = reader;
  const given = parts.firstEdge.take();
  const target = parts.target.take();
  const givenName = parts.edgeName.take();
  const objects = given.length;
  const more = new Map(reader.lateReferences.map(({ row, known }) => [row, known]));
  const extra = definedClasses(parts, index);
  const room =
    target.length +
    sum([...more.values()].map((known) => known.length)) +
    sum([...extra.values()].map((rows) => rows.length));
  const firstEdge = new Uint32Array(objects + 1);
  const edgeTo = new Uint32Array(room);
  const edgeName = new Uint32Array(room);
  const defines = extra.size > 0 ? parts.nameId('(defines)') : 0;
  const hasMore = new Uint8Array(objects);
  for (const object of [...more.keys(), ...extra.keys()]) hasMore[object] = 1;
  for (const object of leftOut) hasMore[object] = LEFT_OUT;
  let edges = 0;
  const add = (to: number, name: number): void => {
    if (to === NOT_THERE) return;
    edgeTo[edges] = to;
    edgeName[edges++] = name;
  };
  for (let object = 0; object < objects; object++) {
    firstEdge[object] = edges;
    const end = hasMore[object] === LEFT_OUT ? 0 : object + 1 < objects ? given[object + 1]! : target.length;
    for (let edge = given[object]!; edge < end; edge++) add(index.at(target[edge]!), givenName[edge]!);
    if (hasMore[object] !== 1) continue;
    for (const { to, name } of more.get(object) ?? []) add(index.at(to), name);
    for (const row of extra.get(object) ?? []) add(row, defines);
  }
  firstEdge[objects] = edges;
  return edges === room
    ? { firstEdge, edgeTo, edgeName }
    : { firstEdge, edgeTo: edgeTo.slice(0, edges), edgeName: edgeName.slice(0, edges) };
}

const sum = (values: readonly number[]): number => values.reduce((all, value) => all + value, 0);

// A class loader keeps the classes that it defined.
function definedClasses(parts: DumpParts, index: AddressIndex): Map<number, number[]> {
  const defined = new Map<number, number[]>();
  for (const { row, loaderAddress } of parts.classes) {
    const loader = row < 0 || loaderAddress === 0 ? NOT_THERE : index.at(loaderAddress);
    if (loader === NOT_THERE) continue;
    const rows = defined.get(loader);
    if (rows === undefined) defined.set(loader, [row]);
    else rows.push(row);
  }
  return defined;
}

interface RootKinds {
  readonly rootKinds: string[];
  /** Kind of the roots that are frames of a thread, by its number. */
  readonly frameKind: ReadonlyMap<number, number>;
}

/** Threads of a pool are told together: what counts them stands at the end of their names. */
const COUNTER = /\d+$/;

// A frame is told by the name of its thread, where that is known.
function frameKinds(
  parts: DumpParts,
  index: AddressIndex,
  { firstEdge, edgeTo, edgeName }: Pick<HeapGraph, 'firstEdge' | 'edgeTo' | 'edgeName'>,
  rootKinds: string[],
): ReadonlyMap<number, number> {
  const name = parts.names.indexOf('name');
  const referred = (object: number, by: number | null): number => {
    for (let edge = firstEdge[object]!; object !== NOT_THERE && edge < firstEdge[object + 1]!; edge++)
      if (by === null || edgeName[edge] === by) return edgeTo[edge]!;
    return NOT_THERE;
  };
  const frameKind = new Map<number, number>();
  const kindOf = new Map<string, number>();
  for (const [number, address] of parts.threads) {
    const text = referred(index.at(address), name);
    const letters = parts.text.get(text) ?? parts.text.get(referred(text, null)) ?? '';
    if (letters === '') continue;
    const words = `stack of thread “${letters.replace(COUNTER, '…')}”`;
    const kind = kindOf.get(words) ?? rootKinds.push(words) - 1;
    kindOf.set(words, kind);
    frameKind.set(number, kind);
  }
  return frameKind;
}

// Classes first, since a way from a class tells most; frames last, since what only they hold is gone in a moment.
function rootsOf(
  reader: DumpReader,
  index: AddressIndex,
  { rootKinds, frameKind }: RootKinds,
  leftOut: ReadonlySet<number>,
) {
  const { parts } = reader;
  const ofProgram = rootKinds.push('class of the program') - 1;
  const roots: { readonly object: number; readonly kind: number }[] = [];
  const loaders = parts.kind.values();
  const ofClass = parts.ofClass.values();
  for (const { row, loaderAddress } of parts.classes) {
    const loader = row < 0 || loaderAddress === 0 ? NOT_THERE : index.at(loaderAddress);
    if (loader === NOT_THERE || loaders[loader] !== Kind.instance) continue;
    if (LASTING_LOADERS.test(parts.classes[ofClass[loader]!]!.name)) roots.push({ object: row, kind: ofProgram });
  }
  const [addresses, kinds, threads] = [parts.rootAddress.values(), parts.rootKind.values(), parts.rootThread.values()];
  const frame = rootKinds.indexOf(ROOTS.get(RootTag.frame)![0]);
  const told = Array.from(addresses, (address, at) => ({
    object: index.at(address),
    kind: (kinds[at] === frame ? frameKind.get(threads[at]!) : undefined) ?? kinds[at]!,
  }));
  const isFrame = (kind: number): boolean => rootKinds[kind]!.startsWith('stack');
  roots.push(...told.filter(({ kind }) => !isFrame(kind)), ...told.filter(({ kind }) => isFrame(kind)));
  const known = roots.filter(({ object }) => object !== NOT_THERE && !leftOut.has(object));
  return {
    roots: Uint32Array.from(known, ({ object }) => object),
    rootKind: Uint32Array.from(known, ({ kind }) => kind),
  };
}

function typesOf(parts: DumpParts) {
  const types: string[] = [];
  const ids = new Map<string, number>();
  const idOf = (name: string): number => {
    let id = ids.get(name);
    if (id === undefined) ids.set(name, (id = types.push(name) - 1));
    return id;
  };
  const ofClasses = Uint32Array.from(parts.classes, ({ name }) => idOf(readableType(name)));
  const ofBasics = BASIC_NAMES.map((name) => (name === '' ? 0 : idOf(`${name}[]`)));
  const aClass = idOf('java.lang.Class');
  const ownName = new Map<number, string>();
  const kind = parts.kind.values();
  const ofClass = parts.ofClass.values();
  const typeId = new Uint32Array(kind.length);
  for (let object = 0; object < kind.length; object++) {
    const what = kind[object]!;
    if (what === Kind.class) {
      typeId[object] = aClass;
      ownName.set(object, readableType(parts.classes[ofClass[object]!]!.name));
    } else typeId[object] = what >= 4 ? ofBasics[what]! : ofClasses[ofClass[object]!]!;
  }
  const isLibrary = Uint8Array.from(types, (name) => Number(LIBRARY.test(name)));
  return { types, typeId, ownName, isLibrary, ofClasses };
}

/** A class's name as people write it: `[Ljava.lang.String;` is `java.lang.String[]`. */
function readableType(name: string): string {
  if (name === '') return '(a class that is not in the dump)';
  const depth = /^\[*/.exec(name)![0].length;
  if (depth === 0) return name;
  const element = name.slice(depth);
  return `${DESCRIPTORS.get(element) ?? element.replace(/^L|;$/g, '')}${'[]'.repeat(depth)}`;
}

/**
 * Bytes of each object. A dump does not tell them: they follow from the fields and from how this JVM lays objects out,
 * which shows in the distances of objects that lie behind each other. No object is larger than the distance to the next.
 */
function ownSizes(parts: DumpParts, address: Float64Array): { ownBytes: Float64Array; layout: Layout } {
  const [kind, ofClass, count] = [parts.kind.values(), parts.ofClass.values(), parts.count.values()];
  const layout = layoutOf(parts, address);
  const measured = leastDistances(parts, address);
  const ofClasses = parts.classes.map((of, index) => classSize(parts, of, layout, measured[index]!));
  const mirror = parts.classes.find(({ name }) => name === 'java.lang.Class');
  const mirrorBytes = mirror === undefined ? 0 : ofClasses[parts.classes.indexOf(mirror)]!;
  const ownBytes = new Float64Array(kind.length);
  for (let object = 0; object < kind.length; object++) {
    const what = kind[object]!;
    const of = ofClass[object]!;
    if (what === Kind.instance) ownBytes[object] = ofClasses[of]!;
    else if (what === Kind.references) ownBytes[object] = arrayBytes(layout, count[object]!, layout.reference);
    else if (what === Kind.class) {
      const { staticBytes, staticReferences } = parts.classes[of]!;
      ownBytes[object] = mirrorBytes + Math.ceil((staticBytes + staticReferences * layout.reference) / 8) * 8;
    } else ownBytes[object] = arrayBytes(layout, count[object]!, BASIC_BYTES[what]!);
  }
  return { ownBytes, layout };
}

function classSize(parts: DumpParts, of: DumpClass, layout: Layout, { least, seen, same }: Distances): number {
  const fields = parts.fieldSizes(of);
  const worked = fields === null ? Infinity : instanceBytes(layout, fields);
  // Fields that a dump leaves out, or that stand apart on purpose, make all objects of a class larger alike.
  if (seen >= ENOUGH && same >= 0.9 * seen) return least;
  const size = Math.min(worked, least);
  return size === Infinity ? layout.header : size;
}

interface Distances {
  /** Least distance from an object of the class to the next; Infinity for none. */
  least: number;
  seen: number;
  /** How many are that far. */
  same: number;
}

// Distances from instances to the object behind them, by class.
function leastDistances(parts: DumpParts, address: Float64Array): Distances[] {
  const distances = parts.classes.map((): Distances => ({ least: Infinity, seen: 0, same: 0 }));
  const [kind, ofClass] = [parts.kind.values(), parts.ofClass.values()];
  for (let object = 0; object + 1 < address.length; object++) {
    const gap = address[object + 1]! - address[object]!;
    if (kind[object] !== Kind.instance || !(gap > 0)) continue;
    const of = distances[ofClass[object]!]!;
    of.seen++;
    if (gap < of.least) {
      of.least = gap;
      of.same = 0;
    }
    if (gap === of.least) of.same++;
  }
  return distances;
}

// The layout under which most objects end where the next begins, and the fewest would overlap it.
function layoutOf(parts: DumpParts, address: Float64Array): Layout {
  const [kind, ofClass, count] = [parts.kind.values(), parts.ofClass.values(), parts.count.values()];
  const step = Math.max(1, Math.floor(address.length / MOST_TRIED));
  const scores = LAYOUTS.map((layout) => {
    const sizes = parts.classes.map((of) => {
      const fields = parts.fieldSizes(of);
      return fields === null ? NaN : instanceBytes(layout, fields);
    });
    let score = 0;
    for (let object = 0; object + 1 < address.length; object += step) {
      const gap = address[object + 1]! - address[object]!;
      const what = kind[object]!;
      if (!(gap > 0) || what === Kind.class) continue;
      const size =
        what === Kind.instance
          ? sizes[ofClass[object]!]!
          : arrayBytes(layout, count[object]!, what === Kind.references ? layout.reference : BASIC_BYTES[what]!);
      if (size === gap) score++;
      else if (size > gap) score -= 2;
    }
    return score;
  });
  return LAYOUTS[scores.indexOf(Math.max(...scores))]!;
}
