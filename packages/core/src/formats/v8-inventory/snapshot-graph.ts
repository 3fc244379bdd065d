import { z } from 'zod';
import { growableNumbers, growableWords } from '../../base/growable-column.ts';
import { DETACHED, ELEMENT, ELEMENT_NAME, type HeapGraph, OUTER_SCOPE, SCOPE } from '../../model/heap-graph.ts';
import { NO_VALUES } from '../../model/heap-values.ts';
import { functionTypes, OF_THE_RECORDER } from './function-types.ts';
import type { SnapshotEvents } from './snapshot-scanner.ts';

/** What a snapshot says of its own columns. */
const metaSchema = z.object({
  meta: z.object({
    node_fields: z.array(z.string()),
    node_types: z.array(z.union([z.array(z.string()), z.string()])),
    edge_fields: z.array(z.string()),
    edge_types: z.array(z.union([z.array(z.string()), z.string()])),
  }),
});

/** Kinds of node that are told together, whatever each is called; `null` for those that go by their names. */
const KIND_TYPES: ReadonlyMap<string, string> = new Map([
  ['string', 'string'],
  ['concatenated string', 'string'],
  ['sliced string', 'string'],
  ['number', 'number'],
  ['bigint', 'bigint'],
  ['symbol', 'symbol'],
  ['regexp', 'RegExp'],
  ['code', '(code)'],
  ['hidden', '(of the runtime)'],
  ['array', '(array)'],
  ['object shape', '(shape)'],
]);
const BUILT_IN =
  /^function(?: [^(]*$|.*\(node:|$)|^(?:Object|EventEmitter|Timeout|Immediate|Array|Map|Set|WeakMap|WeakSet|WeakRef|Promise|ArrayBuffer|SharedArrayBuffer|DataView|Buffer|\w+Array|string|number|bigint|symbol|RegExp|Date)$|^\((?!scope\))|^system \/|^node:|^Node \//;
/** What V8 calls the reference from a scope to the one around it. */
const PREVIOUS = 'previous';
const OUTER = 1;
/**
 * How V8 calls both references to a value of a weak map, from its key and from the map's table; the key's number is told.
 * The value goes when either does: it is told as the key's, for those that stay are most often kept by their keys.
 */
const WEAK_VALUE = /^(?:\d+ \/ )?part of key \(.*? @(\d+)\) -> value /s;
const VALUE_BY_KEY_NAME = '(value in a WeakMap)';
const VALUE_BY_KEY = 2;
/** How V8 flags what hangs in no page, and how browsers name it. */
const IS_DETACHED = 2;
const DETACHED_NAME = /^Detached /;
const MOST_NAME = 120;
/** Of more strings the texts are not kept. */
const MOST_TEXTS = 200_000;
/** V8 tells the first 1,024 letters of a text: one of so many bytes is whole. */
const WHOLE_TEXT = 1040;
/** More strings than this are no names of types and references. */
const MOST_STRINGS = 1 << 28;

interface Columns {
  readonly nodeFields: number;
  readonly type: number;
  readonly name: number;
  readonly id: number;
  readonly size: number;
  readonly edges: number;
  /** Place of what tells whether a part of a page hangs in it; −1 where nothing does. */
  readonly detachedness: number;
  readonly nodeTypes: readonly string[];
  readonly edgeFields: number;
  readonly edgeType: number;
  readonly edgeName: number;
  readonly edgeTo: number;
  readonly edgeTypes: readonly string[];
}

/** Gathers what a scanner tells of a snapshot, and makes the graph of it. */
export class SnapshotParts implements SnapshotEvents {
  /** What is wrong with it, in words; '' while nothing is. */
  problem = '';
  private columns: Columns | null = null;
  private readonly row: number[] = [];
  private readonly kind = growableWords();
  private readonly name = growableWords();
  private readonly id = growableNumbers();
  private readonly size = growableNumbers();
  private readonly edgeCount = growableWords();
  /** Nodes that hang in no page. */
  private readonly detached = new Set<number>();
  private readonly edgeKind = growableWords();
  private readonly edgeLabel = growableWords();
  private readonly edgeTo = growableWords();
  /** Strings of which the text is kept as well. */
  private texts = 0;
  private wanted = new Uint8Array(1024);
  private readonly strings = new Map<number, string>();

  get objects(): number {
    return this.kind.length;
  }

  onMeta(json: string): void {
    let told;
    try {
      told = metaSchema.safeParse(JSON.parse(json));
    } catch {
      told = null;
    }
    if (told?.success !== true) {
      this.problem = 'the description of its columns was expected at its beginning';
      return;
    }
    const { node_fields: nodes, edge_fields: edges, node_types: nodeTypes, edge_types: edgeTypes } = told.data.meta;
    this.columns = {
      nodeFields: nodes.length,
      type: nodes.indexOf('type'),
      name: nodes.indexOf('name'),
      id: nodes.indexOf('id'),
      size: nodes.indexOf('self_size'),
      edges: nodes.indexOf('edge_count'),
      detachedness: nodes.indexOf('detachedness'),
      nodeTypes: listOf(nodeTypes[nodes.indexOf('type')]),
      edgeFields: edges.length,
      edgeType: edges.indexOf('type'),
      edgeName: edges.indexOf('name_or_index'),
      edgeTo: edges.indexOf('to_node'),
      edgeTypes: listOf(edgeTypes[edges.indexOf('type')]),
    };
    const { type, name, id, size, edges: count, edgeType, edgeName, edgeTo } = this.columns;
    if (Math.min(type, name, id, size, count, edgeType, edgeName, edgeTo) < 0) {
      this.columns = null;
      this.problem = 'columns for type, name, id, own size and edges were expected';
    }
  }

  onNumber(list: 'nodes' | 'edges', value: number): void {
    if (this.columns === null) return;
    this.row.push(value);
    if (list === 'nodes' && this.row.length === this.columns.nodeFields) this.addNode(this.columns);
    else if (list === 'edges' && this.row.length === this.columns.edgeFields) this.addEdge(this.columns);
  }

  private addNode({ type, name, id, size, edges, detachedness, nodeTypes }: Columns): void {
    const { row } = this;
    if (row[detachedness] === IS_DETACHED) this.detached.add(this.kind.length);
    this.kind.add(row[type]!);
    this.name.add(row[name]!);
    this.id.add(row[id]!);
    this.size.add(row[size]!);
    this.edgeCount.add(row[edges]!);
    // Of code, those of whole scripts are wanted.
    const kind = nodeTypes[row[type]!] ?? '';
    if (!KIND_TYPES.has(kind) || kind === 'code') this.want(row[name]!);
    else if (kind === 'string' && this.texts < MOST_TEXTS) {
      this.texts++;
      this.want(row[name]!);
    }
    row.length = 0;
  }

  private addEdge({ edgeType, edgeName, edgeTo, edgeTypes, nodeFields }: Columns): void {
    const { row } = this;
    this.edgeKind.add(row[edgeType]!);
    this.edgeLabel.add(row[edgeName]!);
    this.edgeTo.add(row[edgeTo]! / nodeFields);
    if (isNamed(edgeTypes[row[edgeType]!])) this.want(row[edgeName]!);
    row.length = 0;
  }

  private want(place: number): void {
    if (!(place >= 0 && place < MOST_STRINGS)) return;
    if (place >= this.wanted.length) {
      const next = new Uint8Array(Math.max(place + 1, this.wanted.length * 2));
      next.set(this.wanted);
      this.wanted = next;
    }
    this.wanted[place] = 1;
  }

  wants(place: number): boolean {
    return this.wanted[place] === 1;
  }

  onString(place: number, json: string): void {
    let text = json;
    try {
      text = JSON.parse(`"${json}"`) as string;
    } catch {
      // A string that was cut short may end in half an escape.
    }
    this.strings.set(place, text.length > MOST_NAME ? `${text.slice(0, MOST_NAME)}…` : text);
  }

  /** The graph; edges of what came whole only. Null where there is no node. */
  graph(): HeapGraph | null {
    const { columns } = this;
    if (columns === null || this.kind.length === 0) return null;
    const objects = this.kind.length;
    const counts = this.edgeCount.take();
    const types = this.types(columns, counts);
    const isSynthetic = types.isSynthetic;
    // What refers to the recorder is there for it alone.
    const ofRecorder = types.names.indexOf(OF_THE_RECORDER);
    const roots = growableWords();
    const rootKind = growableWords();
    const kinds = new Map<string, number>();
    const [kind, label, to] = [this.edgeKind.take(), this.edgeLabel.take(), this.edgeTo.take()];
    const names = new Map<number, number>();
    const nameTexts = [ELEMENT_NAME, OUTER_SCOPE, VALUE_BY_KEY_NAME];
    const weakValues = this.weakValues();
    const id = this.id.take();
    const previous = [...this.strings].find(([, text]) => text === PREVIOUS)?.[0] ?? -1;
    const firstEdge = new Uint32Array(objects + 1);
    const [edgeTo, edgeName] = [growableWords(), growableWords()];
    let edge = 0;
    for (let node = 0; node < objects; node++) {
      firstEdge[node] = edgeTo.length;
      const end = Math.min(kind.length, edge + counts[node]!);
      for (; edge < end; edge++) {
        const edgeType = columns.edgeTypes[kind[edge]!] ?? '';
        if (edgeType === 'weak' || to[edge]! >= objects || types.typeId[to[edge]!] === ofRecorder) continue;
        if (isSynthetic[node] === 1) {
          if (isSynthetic[to[edge]!] === 1) continue;
          roots.add(to[edge]!);
          rootKind.add(idIn(kinds, rootWords(types.text(node))));
          continue;
        }
        const key = weakValues.get(label[edge]!);
        const isWeakValue = key !== undefined && edgeType === 'internal';
        if (isWeakValue && key !== id[node]) continue;
        edgeTo.add(to[edge]!);
        if (isWeakValue) edgeName.add(VALUE_BY_KEY);
        else if (edgeType === 'internal' && label[edge] === previous) edgeName.add(OUTER);
        else edgeName.add(isNamed(edgeType) ? this.nameId(label[edge]!, names, nameTexts) : ELEMENT);
      }
    }
    firstEdge[objects] = edgeTo.length;
    return {
      objects,
      typeId: types.typeId,
      content: this.contents(columns),
      text: this.textsOf(columns),
      ownBytes: this.size.take(),
      id,
      firstEdge,
      edgeTo: edgeTo.take(),
      edgeName: edgeName.take(),
      roots: roots.take(),
      rootKind: rootKind.take(),
      rootKinds: [...kinds.keys()],
      types: types.names,
      names: nameTexts,
      values: NO_VALUES,
      referenceBytes: NaN,
      ownName: new Map(),
      isLibrary: Uint8Array.from(types.names, (name) => Number(BUILT_IN.test(name))),
    };
  }

  // The number of the key, by the place of the name of a reference to its value.
  private weakValues(): Map<number, number> {
    const keys = new Map<number, number>();
    for (const [place, text] of this.strings) {
      const key = WEAK_VALUE.exec(text)?.[1];
      if (key !== undefined) keys.set(place, Number(key));
    }
    return keys;
  }

  private nameId(place: number, known: Map<number, number>, texts: string[]): number {
    let id = known.get(place);
    if (id === undefined) {
      const text = this.strings.get(place) ?? '(no name)';
      // The places of a table are told as names, too.
      id = /^\d+$/.test(text) ? ELEMENT : texts.length;
      known.set(place, id);
      if (id !== ELEMENT) texts.push(text);
    }
    return id;
  }

  // Texts are kept once, so that alike ones have one number; of those that are cut short it says nothing.
  private contents({ nodeTypes }: Columns): Uint32Array {
    const [kind, name, size] = [this.kind.values(), this.name.values(), this.size.values()];
    const isText = Uint8Array.from(nodeTypes, (type) => Number(type === 'string'));
    return Uint32Array.from(kind, (type, node) =>
      isText[type] === 1 && size[node]! <= WHOLE_TEXT ? name[node]! + 1 : 0,
    );
  }

  private textsOf({ nodeTypes }: Columns): Map<number, string> {
    const [kind, name] = [this.kind.values(), this.name.values()];
    const string = nodeTypes.indexOf('string');
    const texts = new Map<number, string>();
    for (let node = 0; node < kind.length && texts.size < MOST_TEXTS; node++) {
      const text = kind[node] === string ? this.strings.get(name[node]!) : undefined;
      if (text !== undefined) texts.set(node, text);
    }
    return texts;
  }

  private functions({ nodeTypes, edgeTypes }: Columns, edgeCount: Uint32Array): Map<number, string> {
    const [kind, name] = [this.kind.values(), this.name.values()];
    const [edgeKind, edgeLabel] = [this.edgeKind.values(), this.edgeLabel.values()];
    const closure = nodeTypes.indexOf('closure');
    const internal = edgeTypes.indexOf('internal');
    return functionTypes({
      nodes: kind.length,
      isFunction: (node) => kind[node] === closure,
      nameOf: (node) => this.strings.get(name[node]!) ?? '',
      edgeCount,
      edgeTo: this.edgeTo.values(),
      labelOf: (edge) => (edgeKind[edge] === internal ? (this.strings.get(edgeLabel[edge]!) ?? '') : ''),
    });
  }

  private types(columns: Columns, edgeCount: Uint32Array) {
    const { nodeTypes } = columns;
    const [kind, name] = [this.kind.values(), this.name.values()];
    const functions = this.functions(columns, edgeCount);
    const ids = new Map<string, number>();
    const ofNames = new Map<number, number>();
    const typeId = new Uint32Array(kind.length);
    const isSynthetic = new Uint8Array(kind.length);
    for (let node = 0; node < kind.length; node++) {
      const nodeType = nodeTypes[kind[node]!] ?? '';
      isSynthetic[node] = Number(nodeType === 'synthetic');
      const shared = functions.get(node) ?? KIND_TYPES.get(nodeType);
      if (shared !== undefined) {
        typeId[node] = idIn(ids, shared);
        continue;
      }
      if (this.detached.has(node)) {
        typeId[node] = idIn(ids, readable(this.strings.get(name[node]!) ?? '').replace(DETACHED_NAME, '') + DETACHED);
        continue;
      }
      let id = ofNames.get(name[node]!);
      if (id === undefined) {
        const text = this.strings.get(name[node]!) ?? '';
        ofNames.set(name[node]!, (id = idIn(ids, readable(text))));
      }
      typeId[node] = id;
    }
    const names = [...ids.keys()];
    return { typeId, isSynthetic, names, text: (node: number): string => names[typeId[node]!]! };
  }
}

const listOf = (given: readonly string[] | string | undefined): readonly string[] =>
  Array.isArray(given) ? (given as readonly string[]) : [];

const isNamed = (edgeType = ''): boolean => !['element', 'hidden', ''].includes(edgeType);

function idIn(ids: Map<string, number>, name: string): number {
  let id = ids.get(name);
  if (id === undefined) ids.set(name, (id = ids.size));
  return id;
}

// What V8 calls a context is a scope whose variables functions keep.
function readable(name: string): string {
  return name === 'system / Context' ? SCOPE : name === '' ? '(no name)' : name;
}

// "(Stack roots)" is told as "stack roots"; what hangs below the topmost node is global.
function rootWords(name: string): string {
  const plain = name.replace(/^\(|\)$/g, '').toLowerCase();
  return plain === 'no name' ? 'global object' : plain;
}
