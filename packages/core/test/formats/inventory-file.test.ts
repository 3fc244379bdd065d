import { writeInventory } from '../../src/formats/inventory-file/write-inventory.ts';
import { readInventory } from '../../src/formats/inventory-file/read-inventory.ts';
import { PauseFlag } from '../../src/model/tables.ts';
import { StreamParser } from '../../src/formats/stream/stream-parser.ts';
import type { Inventory } from '../../src/model/heap-graph.ts';
import { graphOf } from '../analysis/holding/graphs.ts';
import { seeded } from '../seeded.ts';

const text = new TextEncoder();

function anInventory(random: () => number): Inventory {
  const objects = 1 + Math.floor(random() * 40);
  const any = (): number => Math.floor(random() * objects);
  const graph = graphOf(
    Array.from({ length: objects }, () => Math.floor(random() ** 8 * 2 ** 40)),
    Array.from({ length: 3 * objects }, () => [any(), any(), `field ${any()}`] as const),
    Array.from({ length: 4 }, any),
    Array.from({ length: objects }, () => (random() < 0.5 ? 'java.lang.String' : `Tide ${any()} ≈`)),
  );
  // Addresses as a JVM has them, that go down as well.
  graph.id.forEach((_, object) => (graph.id[object] = Math.floor(random() * 2 ** 47)));
  graph.content.forEach((_, object) => (graph.content[object] = random() < 0.5 ? 0 : Math.floor(random() * 2 ** 32)));
  const sampled = Array.from({ length: objects }, (_, object) => object).filter(() => random() < 0.3);
  return {
    graph: { ...graph, referenceBytes: random() < 0.5 ? 4 : NaN, ownName: new Map([[any(), 'Weir']]) },
    source: random() < 0.5 ? 'jvm' : 'v8',
    takenEpochMs: random() < 0.5 ? 1.8e12 : NaN,
    heapId: 0,
    tMs: 1000,
    pauseMs: 20,
    sampled: {
      object: Uint32Array.from(sampled),
      sourceId: Float64Array.from(sampled, () => Math.floor(random() * 2 ** 50)),
      oneIn: 1 + any(),
    },
    defects: ['it is cut off'],
    notes: [],
  };
}

function piecesOf(inventory: Inventory, bytes: number): Uint8Array[] {
  const pieces: Uint8Array[] = [];
  writeInventory(inventory, (piece) => pieces.push(piece), bytes);
  return pieces;
}

const joined = (pieces: readonly Uint8Array[]): Uint8Array => Uint8Array.from(pieces.flatMap((piece) => [...piece]));

test('what was written is read again, in pieces of any size', () => {
  const random = seeded(5);
  for (let n = 0; n < 60; n++) {
    const inventory = anInventory(random);
    const whole = joined(piecesOf(inventory, 1 << 20));
    expect(joined(piecesOf(inventory, 1 + Math.floor(random() * 90)))).toEqual(whole);
    const cuts = [0, ...Array.from({ length: 5 }, () => Math.floor(random() * whole.length)), whole.length].sort(
      (a, b) => a - b,
    );
    const pieces = cuts.slice(1).map((to, at) => whole.subarray(cuts[at], to));
    const { heapId, tMs, pauseMs, ...told } = inventory;
    expect([heapId, tMs, pauseMs]).toEqual([0, 1000, 20]);
    expect(readInventory(pieces.filter(({ length }) => length > 0))).toEqual(told);
  }
});

test('one that is damaged is refused in words, and never believed where it cannot be', () => {
  const random = seeded(6);
  let refused = 0;
  for (let n = 0; n < 600; n++) {
    const bytes = joined(piecesOf(anInventory(random), 1 << 20));
    const at = Math.floor(random() * bytes.length);
    const damaged = random() < 0.3 ? bytes.slice(0, at) : bytes.slice();
    if (damaged.length === bytes.length) damaged[at] = Math.floor(random() * 256);
    try {
      const { graph, sampled } = readInventory([damaged]);
      for (const to of graph.edgeTo) expect(to).toBeLessThan(graph.objects);
      for (const type of graph.typeId) expect(type).toBeLessThan(graph.types.length);
      for (const name of graph.edgeName) expect(name).toBeLessThan(graph.names.length);
      for (const root of [...graph.roots, ...sampled.object]) expect(root).toBeLessThan(graph.objects);
    } catch (error) {
      expect((error as Error).message).toMatch(/^expected /);
      refused++;
    }
  }
  expect(refused).toBeGreaterThan(100);
  // A head that promises more than the bytes can hold asks for no memory.
  const head = JSON.stringify({
    ...{ source: 'jvm', takenEpochMs: null, defects: [], notes: [], objects: 4e9, edges: 0, roots: 0, sampled: 0 },
    ...{ oneIn: 1, referenceBytes: 4, types: ['T'], library: [], names: ['[]'], rootKinds: [], ownNames: [] },
  });
  const bytes = new Uint8Array(13 + head.length);
  bytes.set(text.encode(`HERONINV\u0001`));
  new DataView(bytes.buffer).setUint32(9, head.length, true);
  bytes.set(text.encode(head), 13);
  expect(() => readInventory([bytes])).toThrow('expected all of its columns');
});

const HELLO = {
  ...{ k: 'hello', schema: 'brisk-heron/stream@1', h: '1', epochMs: 1.8e12, program: 'weir', runtime: 'OpenJDK 17' },
};

function linesOf(inventory: Inventory, h: string, t: number, bytes = 100): object[] {
  const pieces = piecesOf(inventory, bytes);
  return pieces.map((piece, n) => ({
    ...{ k: 'inventory', h, t, ms: 7, n, data: Buffer.from(piece).toString('base64') },
    ...(n === pieces.length - 1 ? { last: true } : {}),
  }));
}

function streamOf(lines: readonly object[], chunk = 1 << 20): StreamParser {
  const parser = new StreamParser();
  const bytes = text.encode(lines.map((line) => `${JSON.stringify(line)}\n`).join(''));
  for (let at = 0; at < bytes.length; at += chunk) parser.write(bytes.slice(at, at + chunk));
  parser.end();
  return parser;
}

test('in a stream inventories come in pieces, of several heaps at once, and other lines between them', () => {
  const random = seeded(7);
  const [a, b] = [anInventory(random), anInventory(random)];
  const [ofA, ofB] = [linesOf(a, '1', 500), linesOf(b, '2', 800, 333)];
  const mixed: object[] = [HELLO, { ...HELLO, h: '2', epochMs: 1.8e12 + 100 }];
  for (let at = 0; at < Math.max(ofA.length, ofB.length); at++)
    mixed.push(...[ofA[at], { k: 'size', h: '1', t: 900 + at, used: 5 }, ofB[at]].filter((line) => line !== undefined));
  for (const chunk of [97, 1 << 20]) {
    const { recording } = streamOf(mixed, chunk);
    expect(recording.issues.count).toBe(0);
    const { inventories } = recording;
    expect(inventories.map(({ heapId, tMs, pauseMs }) => [heapId, tMs, pauseMs]).sort()).toEqual([
      [0, 500, 7],
      [1, 900, 7],
    ]);
    expect(inventories.find(({ heapId }) => heapId === 0)!.graph).toEqual(a.graph);
    expect(inventories.find(({ heapId }) => heapId === 1)!.graph).toEqual(b.graph);
    // The program stood still for each: a pause that the recorder made.
    const { length, col } = recording.tables.pauses;
    const stops = Array.from({ length }, (_, row) => [col.startMs[row], col.durationMs[row], col.flags[row]]);
    expect(stops.sort()).toEqual([
      [500, 7, PauseFlag.own],
      [900, 7, PauseFlag.own],
    ]);
  }
});

test('of an inventory a piece of which is missing, twice there or none, nothing is kept but that it was there', () => {
  const inventory = anInventory(seeded(8));
  const lines = linesOf(inventory, '1', 500);
  const broken = [
    [HELLO, ...lines.slice(0, 2), ...lines.slice(3)],
    [HELLO, ...lines.slice(0, 2), lines[1]!, ...lines.slice(2)],
    [HELLO, ...lines.slice(0, -1), { ...lines.at(-1)!, data: 'no base64!' }],
    [HELLO, ...lines.slice(0, -1), { ...lines.at(-1)!, data: 'AAAA' }],
  ];
  for (const each of broken) {
    const { recording } = streamOf(each);
    expect(recording.inventories).toEqual([]);
    expect(recording.issues.first[0]!.message).toMatch(/left out/);
  }
  // The writer died and began anew: the second try counts.
  const again = streamOf([HELLO, ...lines.slice(0, 2), ...lines]).recording;
  expect([again.inventories.length, again.issues.count]).toEqual([1, 0]);
  // Cut off at the end: nothing of it, and nothing to complain of.
  const cut = streamOf([HELLO, ...lines.slice(0, -1)]).recording;
  expect([cut.inventories.length, cut.issues.count]).toEqual([0, 0]);
});
