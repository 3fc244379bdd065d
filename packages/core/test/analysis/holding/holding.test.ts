import { aroundOf } from '../../../src/analysis/holding/around.ts';
import { dominatorsOf, NOBODY } from '../../../src/analysis/holding/dominators.ts';
import { heldBytesOf, leastHeldBytes } from '../../../src/analysis/holding/held-set.ts';
import { commonHolder, heldSet, heldSets, heldWays, holdingOf } from '../../../src/analysis/holding/holding.ts';
import { objectSets } from '../../../src/analysis/holding/object-sets.ts';
import type { HeapGraph } from '../../../src/model/heap-graph.ts';
import { readHoldingFind } from '../../../src/query/find-holding.ts';
import { seeded } from '../../seeded.ts';
import { graphOf, reachableBytes } from './graphs.ts';

function randomGraph(random: () => number): HeapGraph {
  const objects = 1 + Math.floor(random() * 14);
  const any = (): number => Math.floor(random() * objects);
  const references = Array.from({ length: Math.floor(random() * 2.4 * objects) }, () => [any(), any()] as const);
  return graphOf(
    Array.from({ length: objects }, () => 1 + Math.floor(random() * 50)),
    references,
    Array.from({ length: 1 + Math.floor(random() * 3) }, any),
  );
}

test('what an object holds is what cannot be reached without it, in thousands of graphs', () => {
  const random = seeded(19);
  for (let graphs = 0; graphs < 4000; graphs++) {
    const graph = randomGraph(random);
    const { heldBytes, rankOf } = dominatorsOf(graph);
    const all = reachableBytes(graph, () => false);
    expect(heldBytes[0]).toBe(all);
    for (let object = 0; object < graph.objects; object++) {
      const lost = all - reachableBytes(graph, (each) => each === object);
      expect(rankOf[object] === 0 ? 0 : heldBytes[rankOf[object]!]).toBe(lost);
    }
  }
});

test('what a set holds is what cannot be reached without all of it, and what its objects hold one by one is no more', () => {
  const random = seeded(20);
  for (let graphs = 0; graphs < 2000; graphs++) {
    const graph = randomGraph(random);
    const dominators = dominatorsOf(graph);
    const setOf = Uint32Array.from({ length: graph.objects }, () =>
      random() < 0.2 ? NOBODY : Math.floor(random() * 3),
    );
    const least = leastHeldBytes(dominators, setOf, 3);
    for (let set = 0; set < 3; set++) {
      const isMember = Uint8Array.from(setOf, (each) => Number(each === set));
      const lost = reachableBytes(graph, () => false) - reachableBytes(graph, (each) => setOf[each] === set);
      expect(heldBytesOf(graph, dominators, isMember)).toBe(lost);
      expect(least[set]).toBeLessThanOrEqual(lost);
    }
  }
});

test('two caches that share their values hold little one by one and all of it together', () => {
  const values = Array.from({ length: 100 }, (_, n) => n + 3);
  const graph = graphOf(
    [8, 16, 16, ...values.map(() => 1000)],
    [
      [0, 1],
      [0, 2],
      ...values.flatMap(
        (value) =>
          [
            [1, value],
            [2, value],
          ] as const,
      ),
    ],
    [0],
    ['Root', 'Cache', 'Cache', ...values.map(() => 'Value')],
  );
  const holding = holdingOf(graph);
  const sets = objectSets(holding, 'type', []);
  const { sets: told } = heldSets(holding, sets, 20);
  const cache = told.find(({ key }) => key === 'Cache')!;
  expect([cache.heldBytes, cache.heldIsExact]).toEqual([100_032, true]);
  expect(leastHeldBytes(holding.dominators, sets.setOf, sets.keys.length)[cache.set]).toBe(32);
  expect(commonHolder(holding, sets, cache.set)).toMatchObject({ type: 'Root', shareRatio: 1 });
});

test('a chain of a million objects is one step of a way, and costs no stack', () => {
  const links = 1_000_000;
  const graph = graphOf(
    Array.from({ length: links + 1 }, () => 24),
    Array.from({ length: links }, (_, at) => [at, at + 1, at === 0 ? 'chain' : 'next'] as const),
    [0],
    Array.from({ length: links + 1 }, (_, at) => (at === 0 ? 'Service' : 'Link')),
  );
  const holding = holdingOf(graph);
  const sets = objectSets(holding, 'type', []);
  const link = sets.keys.indexOf('Link');
  expect(holding.dominators.heldBytes[holding.dominators.rankOf[1]!]).toBe(24 * links);
  const [ways] = heldWays(holding, sets, [link], 5);
  expect(ways!.map(({ steps, objects }) => [steps, objects])).toEqual([
    [['root: stack of a thread', 'Service.chain', 'Link.next'], links - 1],
    [['root: stack of a thread', 'Service.chain'], 1],
  ]);
  expect(commonHolder(holding, sets, link)).toMatchObject({ reference: 'Service.chain', type: 'Link' });
});

// A list that goes forth and one that goes back over the same objects: hard for what looks at all objects again and again.
test('two opposed chains over the same objects are gone through once', () => {
  const links = 200_000;
  const graph = graphOf(
    Array.from({ length: links + 1 }, () => 8),
    [
      [0, 1],
      [0, links],
      ...Array.from({ length: links - 1 }, (_, at) => [at + 1, at + 2] as const),
      ...Array.from({ length: links - 1 }, (_, at) => [at + 2, at + 1] as const),
    ],
    [0],
  );
  const { holder, rankOf } = dominatorsOf(graph);
  for (const object of [1, 2, links / 2, links]) expect(holder[rankOf[object]!]).toBe(rankOf[0]);
});

test('a find takes words of types, sizes and fields on the way, and says what it does not understand', () => {
  const graph = graphOf(
    [16, 48, 200, 5000, 24],
    [
      [0, 1, 'cache'],
      [1, 2, 'table'],
      [2, 3],
      [0, 4, 'log'],
    ],
    [0],
    ['Service', 'java.util.HashMap', 'java.util.HashMap$Node[]', 'Tide', 'Tide'],
  );
  const holding = holdingOf(graph);
  const found = (find: string): number[] => {
    const { setOf } = objectSets(holding, 'type', readHoldingFind(find).terms);
    return Array.from(setOf.keys()).filter((object) => setOf[object] !== NOBODY);
  };
  expect(found('tide')).toEqual([3, 4]);
  expect(found('tide own>1KiB')).toEqual([3]);
  expect(found('field=cache')).toEqual([1, 2, 3]);
  expect(found('held>5000 !type=service')).toEqual([1, 2]);
  expect(found('own=16..48')).toEqual([0, 1, 4]);
  expect(found('own<=24')).toEqual([0, 4]);
  // Nothing was sampled, so it was born nowhere that is known.
  expect(found('site=alerts')).toEqual([]);
  expect(readHoldingFind('places=alerts').problem).toMatch(/^expected a word, type=Buffer/);
  expect(readHoldingFind('own>much').problem).toMatch(/^expected sizes as own>1MiB/);
  const byPackage = objectSets(holding, 'package', []);
  expect(heldSets(holding, byPackage, 9).sets.map(({ key, objects, isOwn }) => [key, objects, isOwn])).toEqual([
    ['(no package)', 3, true],
    ['java.util', 2, false],
  ]);
});

test('a holder inside a collection of the library is told by the reference of the program that it hangs on', () => {
  const handlers = Array.from({ length: 40 }, (_, n) => n + 3);
  const graph = graphOf(
    [16, 48, 200, ...handlers.map(() => 32)],
    [[0, 1, 'watch'], [1, 2, 'table'], ...handlers.map((handler) => [2, handler] as const)],
    [0],
    ['AlertService', 'java.util.HashMap', 'java.util.HashMap$Node[]', ...handlers.map(() => 'Handler')],
  );
  const holding = holdingOf(graph);
  const sets = objectSets(holding, 'type', []);
  expect(commonHolder(holding, sets, sets.keys.indexOf('Handler'))).toEqual({
    object: 1,
    shareRatio: 1,
    reference: 'AlertService.watch',
    type: 'java.util.HashMap',
    referrers: 1,
    root: 'stack of a thread',
  });
});

test('what hangs on the links of a list is kept by its head, not by a link in its midst', () => {
  const links = Array.from({ length: 100 }, (_, n) => n + 1);
  const graph = graphOf(
    [16, ...links.map(() => 24), ...links.map(() => 80)],
    [
      [0, 1, 'queue'],
      ...links.slice(1).map((link) => [link - 1, link, 'next'] as const),
      ...links.map((link) => [link, link + 100, 'value'] as const),
    ],
    [0],
    ['Service', ...links.map(() => 'Link'), ...links.map(() => 'Tide')],
  );
  const holding = holdingOf(graph);
  const sets = objectSets(holding, 'type', []);
  expect(commonHolder(holding, sets, sets.keys.indexOf('Tide'))).toMatchObject({
    ...{ object: 1, reference: 'Service.queue', type: 'Link', shareRatio: 1 },
  });
});

test('a collection that only a frame refers to is told itself, not the array in it', () => {
  const tides = Array.from({ length: 12 }, (_, n) => n + 2);
  const graph = graphOf(
    [24, 64, ...tides.map(() => 80)],
    [[0, 1, 'elementData'], ...tides.map((tide) => [1, tide] as const)],
    [0],
    ['java.util.ArrayList', 'java.lang.Object[]', ...tides.map(() => 'Tide')],
  );
  const holding = holdingOf(graph);
  const sets = objectSets(holding, 'type', []);
  expect(commonHolder(holding, sets, sets.keys.indexOf('Tide'))).toMatchObject({
    ...{ reference: '', type: 'java.util.ArrayList', root: 'stack of a thread', shareRatio: 1 },
  });
});

test('an object without a class is told by the field that it stands in, but for one in which the library keeps its own', () => {
  const tides = Array.from({ length: 12 }, (_, n) => n + 4);
  const types = (holder: string): HeapGraph => ({
    ...graphOf(
      [16, 32, 48, 64, ...tides.map(() => 80)],
      [[0, 1, 'service'], [1, 2, 'state'], [2, 3, 'tides'], ...tides.map((tide) => [3, tide] as const)],
      [0],
      ['Harbour', holder, 'Object', 'Array', ...tides.map(() => 'Tide')],
    ),
    isLibrary: Uint8Array.from([0, Number(holder !== 'Service'), 1, 1, 0]),
  });
  const told = (graph: HeapGraph): string => {
    const holding = holdingOf(graph);
    const sets = objectSets(holding, 'type', []);
    const { reference, type } = commonHolder(holding, sets, sets.keys.indexOf('Tide'))!;
    return `${reference} (${type})`;
  };
  expect(told(types('Service'))).toBe('Service.state.tides (Array)');
  expect(told(types('EventEmitter'))).toBe('Harbour.service (EventEmitter)');
});

test('entries that are chained in a table have one way with those that are not', () => {
  const graph = graphOf(
    [16, 48, 80, 32, 32, 24, 24],
    [
      [0, 1, 'watch'],
      [1, 2, 'table'],
      [2, 3],
      [3, 4, 'next'],
      [3, 5, 'value'],
      [4, 6, 'value'],
    ],
    [0],
    ['Service', 'Map', 'Entry[]', 'Entry', 'Entry', 'Tide', 'Tide'],
  );
  const holding = holdingOf(graph);
  const sets = objectSets(holding, 'type', []);
  expect(heldWays(holding, sets, [sets.keys.indexOf('Tide')], 5)[0]).toEqual([
    {
      steps: ['root: stack of a thread', 'Service.watch', 'Map.table', 'Entry[]', 'Entry.value'],
      objects: 2,
      ownBytes: 48,
      shareRatio: 1,
    },
  ]);
});

test('around a set stand who refers to it, to what it refers, what it holds by type, and the largest of it', () => {
  const graph = graphOf(
    [16, 40, 48, 100, 900, 24],
    [
      [0, 1, 'all'],
      [0, 2, 'all'],
      [1, 3, 'body'],
      [2, 4, 'body'],
      [2, 5, 'name'],
      [0, 5, 'name'],
    ],
    [0],
    ['Service', 'Handler', 'Handler', 'byte[]', 'byte[]', 'String'],
  );
  const holding = holdingOf(graph);
  const sets = objectSets(holding, 'type', []);
  const set = sets.keys.indexOf('Handler');
  const { seen } = heldSet(holding, sets, set)!;
  expect(aroundOf(holding, sets, { set, seen }, null, 5)).toEqual({
    referredBy: [{ words: 'Service.all', references: 2, ownBytes: 32 }],
    refersTo: [
      { words: 'Handler.body: byte[]', references: 2, ownBytes: 1000 },
      { words: 'Handler.name: String', references: 1, ownBytes: 24 },
    ],
    // The string has another reference, and would stay.
    holds: [
      { type: 'byte[]', objects: 2, ownBytes: 1000 },
      { type: 'Handler', objects: 2, ownBytes: 88 },
    ],
    largest: [
      { object: 2, id: 16, type: 'Handler', ownBytes: 48, heldBytes: 948, site: '', text: '' },
      { object: 1, id: 8, type: 'Handler', ownBytes: 40, heldBytes: 140, site: '', text: '' },
    ],
    some: [],
  });
  expect(aroundOf(holding, sets, { set, seen }, null, 1).some).toHaveLength(1);
  expect(aroundOf(holding, sets, { set, seen }, null, 1).largest).toHaveLength(1);
});

test('a share is that of the holder that is named, which may hold more than the one below it', () => {
  const handlers = Array.from({ length: 20 }, (_, n) => n + 3);
  // Nineteen of twenty stand in the table, one beside it: the map holds all of them.
  const graph = graphOf(
    [16, 48, 200, ...handlers.map(() => 32)],
    [[0, 1, 'watch'], [1, 2, 'table'], [1, 3, 'spare'], ...handlers.slice(1).map((handler) => [2, handler] as const)],
    [0],
    ['AlertService', 'java.util.HashMap', 'java.util.HashMap$Node[]', ...handlers.map(() => 'Handler')],
  );
  const holding = holdingOf(graph);
  const sets = objectSets(holding, 'type', []);
  const set = sets.keys.indexOf('Handler');
  expect(commonHolder(holding, sets, set)).toMatchObject({ reference: 'AlertService.watch', shareRatio: 1 });
});

test('the holder at the end of a long queue of the library is found in one pass', () => {
  const nodes = 100_000;
  const first = nodes + 1;
  const graph = graphOf(
    Array.from({ length: 2 * nodes + 1 }, () => 24),
    [
      [0, 1, 'queue'],
      ...Array.from({ length: nodes - 1 }, (_, at) => [at + 1, at + 2, 'next'] as const),
      ...Array.from({ length: nodes }, (_, at) => [at + 1, first + at, 'item'] as const),
    ],
    [0],
    Array.from({ length: 2 * nodes + 1 }, (_, at) => (at === 0 ? 'Service' : at <= nodes ? 'java.util.Node' : 'Tide')),
  );
  const holding = holdingOf(graph);
  const sets = objectSets(holding, 'type', []);
  expect(commonHolder(holding, sets, sets.keys.indexOf('Tide'))).toMatchObject({
    reference: 'Service.queue',
    shareRatio: 1,
    referrers: 1,
  });
});
