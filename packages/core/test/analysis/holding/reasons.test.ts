import { holdingOf } from '../../../src/analysis/holding/holding.ts';
import { reasonsOf } from '../../../src/analysis/holding/reasons/reasons.ts';
import type { HeapGraph } from '../../../src/model/heap-graph.ts';
import { graphOf } from './graphs.ts';

type Reference = [from: number, to: number, name?: string];

/** Objects by type and bytes, with references, made step by step; object 0 is the root. */
class Heap {
  readonly own = [16];
  readonly types = ['Service'];
  readonly references: Reference[] = [];
  readonly content = new Map<number, number>();

  add(type: string, bytes: number, from: number, name?: string, content = 0): number {
    const object = this.own.push(bytes) - 1;
    this.types.push(type);
    this.references.push(name === undefined ? [from, object] : [from, object, name]);
    if (content !== 0) this.content.set(object, content);
    return object;
  }

  graph(referenceBytes = NaN): HeapGraph {
    const graph = graphOf(this.own, this.references, [0], this.types);
    for (const [object, content] of this.content) graph.content[object] = content;
    return { ...graph, referenceBytes };
  }
}

const codes = (graph: HeapGraph, source: 'jvm' | 'v8'): string[] =>
  reasonsOf(holdingOf(graph), source).map(({ code }) => code);

test('listeners that pile up on an emitter are told with the event and what they hold', () => {
  const heap = new Heap();
  const events = heap.add('Object', 40, heap.add('Harbour', 60, 0, 'harbour'), '_events');
  const list = heap.add('Array', 32, events, 'tide');
  for (let n = 0; n < 300; n++) heap.add('byte[]', 1000, heap.add('function onTide (weir.js)', 64, list), 'context');
  const [told] = reasonsOf(holdingOf(heap.graph()), 'v8');
  expect(told).toMatchObject({ code: 'listeners', objects: 300, heldBytes: 300 * 1064 + 32, key: 'Array' });
  expect(told!.sentence).toBe('300 listeners of “tide” hang on one Harbour and hold 312 KiB.');
  expect(told!.find).toMatch(/^type=Array held>=\d+B$/);
  // A few are as they should be, and an array of numbers under such a name is none.
  const few = new Heap();
  const other = few.add('Array', 32, few.add('Object', 40, 0, '_events'), 'tide');
  for (let n = 0; n < 300; n++) few.add('number', 1000, other);
  expect(codes(few.graph(), 'v8')).not.toContain('listeners');
  const java = new Heap();
  const table = java.add(
    'java.lang.Object[]',
    4000,
    java.add('java.util.ArrayList', 24, 0, 'tideListeners'),
    'elementData',
  );
  for (let n = 0; n < 900; n++) java.add('Weir$Listener', 200, table);
  expect(reasonsOf(holdingOf(java.graph(4)), 'jvm')[0]).toMatchObject({ code: 'listeners', objects: 900 });
});

test('timers, thread-locals and scopes are told by all that they hold together', () => {
  const node = new Heap();
  const shared = node.add('byte[]', 500_000, 0);
  for (let n = 0; n < 120; n++) {
    const timer = node.add('Timeout', 80, 0);
    const scope = node.add('(scope)', 40, node.add('function (weir.js)', 64, timer, '_onTimeout'), 'context');
    node.references.push([scope, shared, 'level']);
    node.add('Array', 5000, scope, 'readings');
  }
  const told = reasonsOf(holdingOf(node.graph()), 'v8');
  expect(told.map(({ code, heldBytes }) => [code, heldBytes])).toEqual([
    ['timers', 120 * (80 + 64 + 40 + 5000)],
    ['scopes', 120 * (40 + 5000)],
  ]);
  const java = new Heap();
  const entry = java.add('java.lang.ThreadLocal$ThreadLocalMap$Entry', 32, 0);
  java.add('byte[]', 900_000, entry, 'value');
  expect(reasonsOf(holdingOf(java.graph(4)), 'jvm')[0]).toMatchObject({
    ...{ code: 'thread-locals', objects: 1, heldBytes: 900_032 },
    sentence: '1 value of a thread-local holds 879 KiB.',
  });
});

test('parts of pages that hang in none are told with the trees that they keep', () => {
  const page = new Heap();
  for (let n = 0; n < 3; n++) page.add('Text', 30_000, page.add('HTMLDivElement (detached)', 200, 0), 'firstChild');
  expect(reasonsOf(holdingOf(page.graph()), 'v8')).toMatchObject([
    { code: 'detached-parts', objects: 3, heldBytes: 3 * 30_200, find: 'type="HTMLDivElement (detached)"' },
  ]);
});

test('a class that several loaders define is told, one that two do is not', () => {
  const loaders = (copies: number): HeapGraph => {
    const heap = new Heap();
    const names = new Map<number, string>();
    for (let n = 0; n < copies; n++) {
      const loader = heap.add('tide.PluginLoader', 60, 0);
      const aClass = heap.add('java.lang.Class', 120, loader, '(defines)');
      names.set(aClass, 'tide.Plugin');
      heap.references.push([aClass, loader, 'loader']);
      heap.add('byte[]', 100_000, aClass, 'cache');
      // What the runtime makes up itself is there under many names by nature.
      names.set(heap.add('java.lang.Class', 80, loader, '(defines)'), 'tide.Weir$$Lambda/0x1');
    }
    return { ...heap.graph(4), ownName: names };
  };
  expect(reasonsOf(holdingOf(loaders(5)), 'jvm')[0]).toMatchObject({
    ...{ code: 'class-loaders', objects: 5, heldBytes: 5 * 100_260, key: 'tide.PluginLoader' },
    sentence: 'Class tide.Plugin is there 5 times, by as many tide.PluginLoader objects, which hold 490 KiB.',
  });
  expect(codes(loaders(2), 'jvm')).toEqual([]);
});

test('copies, boxes and empty rooms are told by what sharing or smaller ones would save', () => {
  const heap = new Heap();
  for (let n = 0; n < 400; n++) heap.add('byte[]', 1000, heap.add('java.lang.String', 24, 0), 'value', 7 + (n % 4));
  for (let n = 0; n < 400; n++) heap.add('byte[]', 1000, heap.add('java.lang.String', 24, 0), 'value', 5000 + n);
  // Of the same number and another size, and of nothing at all: no copies.
  heap.add('byte[]', 2000, 0, 'other', 7);
  for (let n = 0; n < 100; n++) heap.add('byte[]', 1000, 0, 'blank');
  for (let n = 0; n < 9000; n++) heap.add('java.lang.Integer', 16, 0);
  for (let n = 0; n < 200; n++) {
    const rooms = heap.add('java.lang.Object[]', 16 + 4 * 1000, heap.add('java.util.ArrayList', 24, 0), 'elementData');
    heap.add('Tide', 16, rooms);
  }
  const told = reasonsOf(holdingOf(heap.graph(4)), 'jvm');
  expect(told.map(({ code, key, objects, heldBytes }) => [code, key, objects, heldBytes])).toEqual([
    ['empty-collections', 'java.util.ArrayList', 200, 200 * 999 * 4],
    ['duplicates', 'byte[]', 396, 396_000],
    ['boxed-numbers', 'java.lang.Integer', 9000, 144_000],
  ]);
  // Where nobody knows how large a reference is, no room is known to be empty.
  expect(codes(heap.graph(), 'v8')).not.toContain('empty-collections');
});

test('of a heap in which nothing is usual nothing is said', () => {
  const heap = new Heap();
  for (let n = 0; n < 2000; n++) heap.add('byte[]', 900, heap.add('Tide', 40, 0), 'level', 10_000 + n);
  expect(reasonsOf(holdingOf(heap.graph(4)), 'jvm')).toEqual([]);
  expect(reasonsOf(holdingOf(graphOf([8], [], [0])), 'v8')).toEqual([]);
});

describe('keys of a map that are alike', () => {
  /** A map of so many keys, of which each has one of some numbers; the chain of its entries may bite its tail. */
  const mapOf = (
    keys: number,
    different: number,
    { type = 'tide.Gauge', map = 'java.util.HashMap', isRound = false } = {},
  ): HeapGraph => {
    const heap = new Heap();
    const table = heap.add('java.util.HashMap$Node[]', 64, heap.add(map, 48, 0, 'levels'), 'table');
    const rows: number[] = [];
    let [first, last] = [0, 0];
    for (let n = 0; n < keys; n++) {
      const entry =
        last === 0
          ? heap.add('java.util.HashMap$Node', 32, table)
          : heap.add('java.util.HashMap$Node', 32, last, 'next');
      if (first === 0) first = entry;
      last = entry;
      rows.push(heap.add(type, 24, entry, 'key'));
      heap.add('byte[]', 1000, entry, 'value');
    }
    if (isRound) heap.references.push([last, first, 'next']);
    const fields = [{ names: ['metres'], types: ['int'], offsets: [0], bytes: 4 } as const];
    const bytes = new Uint8Array(4 * keys);
    for (let n = 0; n < keys; n++) new DataView(bytes.buffer).setInt32(4 * n, n % different);
    const values = {
      objects: Uint32Array.from(rows),
      fieldsOf: new Uint32Array(keys),
      firstByte: Uint32Array.from(rows, (_, n) => 4 * n),
      ...{ fields, bytes, typesWithout: new Set<number>() },
    };
    return { ...heap.graph(4), values };
  };
  const told = (graph: HeapGraph): unknown[] =>
    reasonsOf(holdingOf(graph), 'jvm').filter(({ code }) => code === 'alike-keys');

  test('are told with what is held apart, those of the library and those that differ are not', () => {
    expect(told(mapOf(400, 20))).toMatchObject([
      { objects: 380, key: 'tide.Gauge', sentence: expect.stringContaining('380 of the 400 tide.Gauge objects') },
    ]);
    expect(told(mapOf(400, 20, { map: 'tide.Levels' }))).toHaveLength(1);
    expect(told(mapOf(400, 20, { map: 'java.util.WeakHashMap' }))).toEqual([]);
    expect(told(mapOf(400, 400))).toEqual([]);
    expect(told(mapOf(400, 300))).toEqual([]);
    expect(told(mapOf(90, 2))).toEqual([]);
    expect(told(mapOf(400, 20, { type: 'java.time.LocalDate' }))).toEqual([]);
    // Of a dump that was cut off, what a key refers to may be missing.
    expect(reasonsOf(holdingOf(mapOf(400, 20)), 'jvm', false).map(({ code }) => code)).not.toContain('alike-keys');
    // Nothing is known of what is in them.
    expect(told({ ...mapOf(400, 20), values: mapOf(0, 1).values })).toEqual([]);
  });

  test('a damaged chain that bites its tail ends', () => {
    expect(told(mapOf(400, 20, { isRound: true }))).toEqual([]);
  });
});
