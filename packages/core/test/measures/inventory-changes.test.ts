import { askPair } from '../../src/measures/registry.ts';
import type { InventoryChangesAnswer } from '../../src/measures/inventory-changes.ts';
import { NONE_SAMPLED, type Inventory } from '../../src/model/heap-graph.ts';
import { Recording } from '../../src/model/recording.ts';
import { Study } from '../../src/study/study.ts';
import { graphOf } from '../analysis/holding/graphs.ts';

/** A service whose map has some handlers in it, numbered from `first` on, and a cache that does not change. */
function inventory(first: number, handlers: number, tMs: number, shift = 0): Inventory {
  const all = Array.from({ length: handlers }, (_, n) => n + 4);
  const graph = graphOf(
    [16, 48, 32, 4000, ...all.map(() => 1000)],
    [[0, 1, 'watch'], [0, 2, 'cache'], [2, 3, 'table'], ...all.map((each) => [1, each, 'table'] as const)],
    [0],
    ['Service', 'java.util.HashMap', 'Cache', 'byte[]', ...all.map(() => 'Handler')],
  );
  for (let object = 0; object < graph.objects; object++)
    graph.id[object] = 2 * (object < 4 ? object : object + first) + 1 + shift * (object % 7);
  const told = { source: 'v8', takenEpochMs: NaN, heapId: 0, pauseMs: 1, defects: [], notes: [] } as const;
  return { ...told, graph, tMs, sampled: NONE_SAMPLED };
}

function studyOf(...inventories: Inventory[]): Study {
  const recording = new Recording('recording');
  recording.addHeap('main');
  recording.reach(10_000);
  recording.inventories.push(...inventories);
  return new Study({ runs: [recording] });
}

const changes = (study: Study, ask: object = {}): InventoryChangesAnswer =>
  askPair([study, {}], [study, {}], 'inventoryChanges', { atA: 0, ...ask }) as InventoryChangesAnswer;

test('a map that only grows is named with who keeps it, and what came is counted one by one', () => {
  const told = changes(studyOf(inventory(0, 100, 1000), inventory(0, 300, 5000)));
  expect(told.growing).toEqual([
    'Service.watch grew from 100 to 300 Handler (97.7 KiB to 293 KiB held). Not one went.',
  ]);
  const handler = told.rows.find(({ key }) => key === 'Handler')!;
  expect(handler).toMatchObject({
    ...{ isOwn: true, came: 200, went: 0, stayed: 100, holder: 'Service.watch' },
    a: { objects: 100, heldBytes: 100_000, heldIsExact: true },
    b: { objects: 300, heldBytes: 300_000, heldIsExact: true },
  });
  // What did not change comes last, and is no growth.
  expect(told.rows.at(-1)).toMatchObject({ key: expect.stringMatching(/^(?:Cache|byte\[\])$/), went: 0, came: 0 });
});

test('what was replaced came and went, though there is as much of it', () => {
  const told = changes(studyOf(inventory(0, 100, 1000), inventory(60, 100, 5000)));
  const handler = told.rows.find(({ key }) => key === 'Handler')!;
  expect([handler.came, handler.went, handler.stayed]).toEqual([60, 60, 40]);
  expect(told.growing).toEqual([]);
});

test('numbers that mean other objects now are not believed: addresses move', () => {
  const told = changes(studyOf(inventory(0, 100, 1000), inventory(0, 300, 5000, 14)));
  expect(told.rows.every(({ came }) => Number.isNaN(came))).toBe(true);
  expect(told.notes.join()).toMatch(/cannot be followed one by one/);
  expect(told.growing[0]).toMatch(/^Service\.watch grew from 100 to 300 Handler/);
  expect(told.growing[0]).not.toMatch(/Not one went/);
});

test('two recordings are compared by their last inventories, and one with itself not at all', () => {
  const [before, after] = [studyOf(inventory(0, 50, 1000)), studyOf(inventory(0, 80, 1000), inventory(0, 200, 2000))];
  const told = askPair([before, {}], [after, {}], 'inventoryChanges', { find: 'handler' }) as InventoryChangesAnswer;
  expect(told.rows).toHaveLength(1);
  expect([told.rows[0]!.a.objects, told.rows[0]!.b.objects]).toEqual([50, 200]);
  expect(changes(before).missing).toMatch(/one inventory: expected two/);
  expect(changes(after, { atA: 7 }).missing).toBe('A: expected an inventory from 0 to 1, found 7');
  const empty = studyOf();
  expect((askPair([empty, {}], [after, {}], 'inventoryChanges', {}) as InventoryChangesAnswer).missing).toMatch(
    /^A: no inventory was taken/,
  );
});
