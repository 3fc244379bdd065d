import { holdingOf } from '../../../src/analysis/holding/holding.ts';
import { objectSets } from '../../../src/analysis/holding/object-sets.ts';
import { sampledBirths } from '../../../src/analysis/holding/sampled-births.ts';
import { sampledSets } from '../../../src/analysis/holding/sampled-sets.ts';
import { NONE } from '../../../src/base/ids.ts';
import type { HeapGraph, Inventory } from '../../../src/model/heap-graph.ts';
import { Recording } from '../../../src/model/recording.ts';
import { readHoldingFind } from '../../../src/query/find-holding.ts';
import { seeded } from '../../seeded.ts';
import { graphOf, reachableBytes } from './graphs.ts';

interface Made {
  readonly recording: Recording;
  readonly inventory: Inventory;
  /** Site of each object, '' for those that nobody watched. */
  readonly siteOf: readonly string[];
}

/** A heap whose objects are born at known sites, of which a recorder saw each with the probability of its size. */
function made(graph: HeapGraph, siteOf: readonly string[], intervalBytes: number, random: () => number): Made {
  const recording = new Recording('recording');
  const heapId = recording.addHeap('main');
  const { objects } = recording.tables;
  const seen: number[] = [];
  siteOf.forEach((site, object) => {
    const probability = -Math.expm1(-graph.ownBytes[object]! / intervalBytes);
    if (site === '' || random() >= probability) return;
    const path = recording.internPath(NONE, recording.internFrame(site, 'weir.js', 1, 1));
    const row = objects.addRow();
    objects.col.originId[row] = recording.internOrigin(path, NONE, NONE, heapId);
    objects.col.sourceId[row] = 1000 + object;
    objects.col.bornMs[row] = object;
    objects.col.probability[row] = probability;
    seen.push(object);
  });
  // One that lived and is not in the heap, and one of another heap with the same number.
  objects.col.originId[objects.addRow()] = 0;
  recording.reach(siteOf.length);
  const sampled = {
    object: Uint32Array.from(seen),
    sourceId: Float64Array.from(seen, (object) => 1000 + object),
    oneIn: 1,
  };
  const told = { source: 'jvm', takenEpochMs: NaN, heapId, tMs: 0, pauseMs: 0, defects: [], notes: [] } as const;
  return { recording, inventory: { ...told, graph, sampled }, siteOf };
}

// A map of handlers from two sites, each with a body of its own from a third; some lists besides.
function service(random: () => number): { graph: HeapGraph; siteOf: string[] } {
  const own = [16, 48];
  const types = ['Service', 'Map'];
  const siteOf = ['', ''];
  const references: [number, number, string?][] = [[0, 1, 'watch']];
  const add = (bytes: number, type: string, site: string, from: number): number => {
    const object = own.push(bytes) - 1;
    types.push(type);
    siteOf.push(site);
    references.push([from, object]);
    return object;
  };
  for (let n = 0; n < 3000; n++) {
    const handler = add(32, 'Handler', n % 4 === 0 ? 'resubscribe' : 'subscribe', 1);
    add(100 + Math.floor(random() * 1900), 'byte[]', 'body', handler);
  }
  let link = 0;
  for (let n = 0; n < 2000; n++) link = add(24, 'Link', 'append', link);
  return { graph: graphOf(own, references, [0], types), siteOf };
}

test('what sites hold is told within its error, nineteen times of twenty and not always', () => {
  const random = seeded(11);
  const { graph, siteOf } = service(random);
  const holding = holdingOf(graph);
  const truth = new Map(
    ['subscribe', 'resubscribe', 'body'].map((site) => {
      const members = siteOf.flatMap((each, object) => (each === site ? [object] : []));
      const gone = new Set(members);
      const held = reachableBytes(graph, () => false) - reachableBytes(graph, (object) => gone.has(object));
      const ownBytes = members.reduce((sum, object) => sum + graph.ownBytes[object]!, 0);
      return [`${site} weir.js:1`, { objects: members.length, ownBytes, held }] as const;
    }),
  );
  let [inside, cells] = [0, 0];
  const errors: number[] = [];
  for (let run = 0; run < 60; run++) {
    const { recording, inventory } = made(graph, siteOf, 4096, random);
    const births = sampledBirths(recording, inventory);
    const { sets } = sampledSets(holding, objectSets(holding, 'site', [], births), 20);
    for (const [key, { objects, ownBytes, held }] of truth) {
      const told = sets.find((each) => each.key === key);
      if (told?.sampled == null) continue;
      for (const [value, se, of] of [
        [told.objects, told.sampled.objectsSe, objects],
        [told.ownBytes, told.sampled.ownSe, ownBytes],
        [told.heldBytes, told.sampled.heldSe, held],
      ] as const) {
        cells++;
        if (Math.abs(value - of) <= 1.96 * se + 1) inside++;
        errors.push(value / of - 1);
      }
    }
  }
  expect(cells).toBeGreaterThan(400);
  expect(inside / cells).toBeGreaterThan(0.9);
  const mean = errors.reduce((sum, each) => sum + each, 0) / errors.length;
  expect(Math.abs(mean)).toBeLessThan(0.03);
});

test('of a list what one site holds is no more than there is, however its links hold each other', () => {
  const random = seeded(12);
  const { graph, siteOf } = service(random);
  const holding = holdingOf(graph);
  const whole = reachableBytes(graph, () => false);
  for (let run = 0; run < 10; run++) {
    const { recording, inventory } = made(graph, siteOf, 2048, random);
    const { sets } = sampledSets(holding, objectSets(holding, 'site', [], sampledBirths(recording, inventory)), 20);
    const list = sets.find(({ key }) => key.startsWith('append'))!;
    expect(list.objects).toBe(2000);
    expect(list.heldBytes).toBeGreaterThanOrEqual(list.ownBytes);
    expect(list.heldBytes).toBeLessThanOrEqual(whole);
    expect(list.heldBytes).toBeLessThan(3 * 2000 * 24);
  }
});

test('births are told by time, by site in a find, and not at all where nothing was sampled', () => {
  const random = seeded(13);
  const { graph, siteOf } = service(random);
  const holding = holdingOf(graph);
  const { recording, inventory } = made(graph, siteOf, 512, random);
  const births = sampledBirths(recording, inventory);
  expect(births.object.length).toBe(inventory.sampled.object.length);
  const byBand = sampledSets(holding, objectSets(holding, 'band', [], births), 20);
  expect(byBand.sets.length).toBe(8);
  expect(byBand.sets.every(({ key }) => /^born .* to .*$/.test(key))).toBe(true);
  const bodies = objectSets(holding, 'type', readHoldingFind('site=body').terms, births);
  expect(new Set(bodies.setOf)).toEqual(new Set([0xffffffff, bodies.keys.indexOf('byte[]')]));
  // Of the bytes alone: their totals are those of what else fits.
  const large = objectSets(holding, 'site', readHoldingFind('site=body own>=1000').terms, births);
  const told = sampledSets(holding, large, 5).sets[0]!;
  const real = graph.ownBytes.filter((bytes, object) => siteOf[object] === 'body' && bytes >= 1000);
  expect(told.objects).toBe(real.length);
  expect(told.ownBytes).toBe(real.reduce((sum, bytes) => sum + bytes, 0));
  const nobody = { ...inventory, sampled: { object: new Uint32Array(0), sourceId: new Float64Array(0), oneIn: 1 } };
  const none = objectSets(holding, 'site', [], sampledBirths(recording, nobody));
  expect(sampledSets(holding, none, 5)).toEqual({ sets: [], count: 0 });
  // Another heap's objects may have the same numbers.
  const elsewhere = sampledBirths(recording, { ...inventory, heapId: 3 });
  expect(elsewhere.object).toHaveLength(0);
});
