import {
  Bool,
  type Data,
  type DataType,
  Dictionary,
  Field,
  Float64,
  Int32,
  makeData,
  RecordBatch,
  Schema,
  Struct,
  Uint32,
  Utf8,
  type Vector,
} from 'apache-arrow';
import { NOBODY } from '../../analysis/holding/dominators.ts';
import { holdingOf } from '../../analysis/holding/holding.ts';
import { keysOfBirths, sampledBirths } from '../../analysis/holding/sampled-births.ts';
import { NONE } from '../../base/ids.ts';
import type { Recording } from '../../model/recording.ts';
import { boolData, floatData, idData, textData, TextDictionary } from './arrow-columns.ts';

const BATCH_ROWS = 1 << 18;

/** A table of an inventory: its schema, how many rows it has, and its columns from one row to another. */
interface InventoryTable {
  readonly name: string;
  readonly fields: readonly Field[];
  readonly rows: number;
  readonly columns: (from: number, to: number) => Data[];
}

/** Tables of an inventory, as record batches (docs/inventories.md): objects, edges, roots, types. */
export function inventoryTables(recording: Recording, at = recording.inventories.length - 1): InventoryTable[] {
  const inventory = recording.inventories[at];
  if (inventory === undefined) throw new Error('expected a recording with an inventory');
  const { graph } = inventory;
  const { dominators } = holdingOf(graph);
  const types = texts(0, graph.types);
  const births = sampledBirths(recording, inventory);
  const { keys, keyOf } = keysOfBirths(births, 'site');
  const sites = texts(1, keys);
  const siteOf = new Int32Array(graph.objects).fill(-1);
  const bornMs = new Float64Array(graph.objects).fill(NaN);
  births.object.forEach((object, place) => {
    siteOf[object] = keyOf[place]!;
    bornMs[object] = recording.tables.objects.col.bornMs[births.row[place]!]!;
  });
  const held = (object: number): number => {
    const rank = dominators.rankOf[object]!;
    return rank === 0 ? NaN : dominators.heldBytes[rank]!;
  };
  const holder = (object: number): number => {
    const rank = dominators.rankOf[object]!;
    const above = rank === 0 ? NOBODY : dominators.objectAt[dominators.holder[rank]!]!;
    return above === NOBODY ? NONE : above;
  };
  const span = (from: number, to: number, of: (row: number) => number): Uint32Array =>
    Uint32Array.from({ length: to - from }, (_, row) => of(from + row));
  return [
    {
      name: 'objects',
      fields: [
        new Field('object', new Uint32(), false),
        new Field('id', new Float64(), false),
        new Field('own_bytes', new Float64(), false),
        new Field('held_bytes', new Float64(), true),
        new Field('holder', new Uint32(), true),
        new Field('content', new Uint32(), true),
        new Field('born_ms', new Float64(), true),
        new Field('type', types.type, false),
        new Field('site', sites.type, true),
      ],
      rows: graph.objects,
      columns: (from, to) => [
        idData(span(from, to, (row) => row)),
        floatData(graph.id.slice(from, to)),
        floatData(graph.ownBytes.slice(from, to)),
        floatData(Float64Array.from({ length: to - from }, (_, row) => held(from + row))),
        idData(span(from, to, holder)),
        idData(span(from, to, (row) => (graph.content[row] === 0 ? NONE : graph.content[row]!))),
        floatData(bornMs.slice(from, to)),
        types.data(Int32Array.from(graph.typeId.subarray(from, to))),
        sites.data(siteOf.slice(from, to)),
      ],
    },
    edgesTable(graph),
    rootsTable(graph),
    typesTable(graph, types),
  ];
}

type Graph = Recording['inventories'][number]['graph'];

function typesTable({ types, isLibrary }: Graph, words: ReturnType<typeof texts>): InventoryTable {
  const places = (from: number, to: number): Int32Array =>
    Int32Array.from({ length: to - from }, (_, row) => from + row);
  return {
    name: 'types',
    fields: [
      new Field('type_id', new Uint32(), false),
      new Field('library', new Bool(), false),
      new Field('type', words.type, false),
    ],
    rows: types.length,
    columns: (from, to) => [
      idData(Uint32Array.from(places(from, to))),
      boolData(isLibrary.slice(from, to)),
      words.data(places(from, to)),
    ],
  };
}

function edgesTable({ objects, firstEdge, edgeTo, edgeName, names }: Graph): InventoryTable {
  const words = texts(2, names);
  // Batches come in order, so the object whose edges they are is gone along with.
  let object = 0;
  return {
    name: 'edges',
    fields: [
      new Field('from', new Uint32(), false),
      new Field('to', new Uint32(), false),
      new Field('name', words.type, false),
    ],
    rows: edgeTo.length,
    columns: (from, to) => {
      const owner = new Uint32Array(to - from);
      for (let edge = from; edge < to; edge++) {
        while (object + 1 < objects && firstEdge[object + 1]! <= edge) object++;
        owner[edge - from] = object;
      }
      return [idData(owner), idData(edgeTo.slice(from, to)), words.data(Int32Array.from(edgeName.subarray(from, to)))];
    },
  };
}

function rootsTable({ roots, rootKind, rootKinds }: Graph): InventoryTable {
  const words = texts(3, rootKinds);
  return {
    name: 'roots',
    fields: [new Field('object', new Uint32(), false), new Field('kind', words.type, false)],
    rows: roots.length,
    columns: (from, to) => [idData(roots.slice(from, to)), words.data(Int32Array.from(rootKind.subarray(from, to)))],
  };
}

function texts(id: number, words: readonly string[]) {
  const type = new Dictionary(new Utf8(), new Int32(), id);
  const dictionary = new TextDictionary();
  const place = Int32Array.from(words, (word) => dictionary.add(word));
  const vector: Vector<Utf8> = dictionary.vector();
  return {
    type,
    data: (indices: Int32Array): Data =>
      textData(
        type,
        vector,
        indices.map((index) => (index < 0 ? -1 : place[index]!)),
      ),
  };
}

/** The record batches of a table, in order. */
export function* batchesOf(table: InventoryTable, program: string): Generator<RecordBatch> {
  const schema = new Schema(
    [...table.fields],
    new Map([
      ['schema', `brisk-heron/inventory-${table.name}@1`],
      ['program', program],
    ]),
  );
  for (let from = 0; from === 0 || from < table.rows; from += BATCH_ROWS) {
    const to = Math.min(table.rows, from + BATCH_ROWS);
    yield new RecordBatch(
      schema,
      makeData({
        // eslint-disable-next-line no-restricted-syntax -- the type of the format's own columns
        type: new Struct<Record<string, DataType>>([...table.fields]),
        length: to - from,
        nullCount: 0,
        children: table.columns(from, to),
      }),
    );
  }
}
