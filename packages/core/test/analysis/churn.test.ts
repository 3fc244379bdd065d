import { AgeClasses, CLASSES, medianLifetimes } from '../../src/analysis/median-lifetimes.ts';
import { spanFlows } from '../../src/analysis/span-flows.ts';
import { youngCaused, youngFill } from '../../src/analysis/young-fill.ts';
import { chargeGroups } from '../../src/model/charge.ts';
import { Recording } from '../../src/model/recording.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { findOrigins } from '../../src/query/find-origins.ts';
import { addCollection, addFlow, addObject, followObjects } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

const SPAN = { fromMs: 0, toMs: 10_000 };

function world(collects = true): Recording {
  const random = seeded(31);
  const recording = new Recording('recording');
  recording.addHeap('main');
  recording.addHeap('worker');
  followObjects(recording);
  for (let n = 0; n < 6000; n++) {
    const bornMs = random() * 9999;
    const site = n % 3;
    addObject(recording, {
      bornMs,
      bytes: 32 + Math.floor(random() * 64),
      site: `site${site}`,
      heapId: n % 2,
      probability: random() < 0.5 ? 1 : 0.5,
      ...(site < 2 || random() < 0.2 ? { diedMs: bornMs + -Math.log(1 - random()) * (site === 0 ? 20 : 1500) } : {}),
    });
  }
  for (let n = 0; n < 40; n++)
    addFlow(recording, {
      fromMs: n * 250,
      toMs: (n + 1) * 250,
      bytes: 5000 * random(),
      site: `site${n % 3}`,
      heapId: n % 2,
    });
  for (let tMs = 100; collects && tMs < 10_000; tMs += 70 + random() * 200) {
    const kind = random();
    addCollection(recording, {
      startMs: tMs,
      ms: 1,
      before: 9e6,
      after: 4e6,
      heapId: random() < 0.5 ? 0 : 1,
      scope: kind < 0.8 ? Scope.young : Scope.whole,
      flags: kind < 0.1 ? CollectionFlag.explicit : kind > 0.95 ? CollectionFlag.concurrentCycle : 0,
    });
  }
  recording.reach(10_000);
  return recording;
}

// The plain reading: for every young collection the bytes since the one before it in its heap, by site.
function naiveCaused(recording: Recording): Map<number, number> {
  const {
    collections: { length, col },
    objects,
  } = recording.tables;
  const caused = new Map<number, number>();
  const siteOf = (originId: number): number => recording.tables.origins.col.pathId[originId]!;
  for (let row = 0; row < length; row++) {
    if (col.scope[row] !== Scope.young || col.flags[row] !== 0) continue;
    const heap = col.heapId[row]!;
    const to = col.startMs[row]!;
    let from = 0;
    for (let other = 0; other < length; other++)
      if (
        col.heapId[other] === heap &&
        col.startMs[other]! < to &&
        !(col.flags[other]! & CollectionFlag.concurrentCycle)
      )
        from = Math.max(from, col.startMs[other]!);
    const bytes = new Map<number, number>();
    let all = 0;
    const add = (originId: number, estimate: number): void => {
      if (recording.tables.origins.col.heapId[originId] !== heap) return;
      bytes.set(siteOf(originId), (bytes.get(siteOf(originId)) ?? 0) + estimate);
      all += estimate;
    };
    for (let object = 0; object < objects.length; object++) {
      const born = objects.col.bornMs[object]!;
      if (born > from && born <= to)
        add(objects.col.originId[object]!, objects.col.sizeBytes[object]! / objects.col.probability[object]!);
    }
    for (const flow of spanFlows(recording, SPAN))
      add(
        flow.originId,
        (flow.bytes * Math.max(0, Math.min(to, flow.toMs) - Math.max(from, flow.fromMs))) / (flow.toMs - flow.fromMs),
      );
    for (const [site, estimate] of bytes) caused.set(site, (caused.get(site) ?? 0) + estimate / all);
  }
  return caused;
}

test('young collections are caused by what was allocated since the collection before', () => {
  const recording = world();
  const flows = spanFlows(recording, SPAN);
  const fill = youngFill(recording, SPAN, flows);
  const groups = chargeGroups(recording, 'site');
  const caused = youngCaused(recording, fill, groups, { chosen: null, flows });
  const naive = naiveCaused(recording);
  expect(fill.collections).toBeGreaterThan(20);
  caused.forEach((count, group) => {
    expect(count).toBeCloseTo(naive.get(groups.keys[group]!)!, 6);
  });
  // A stretch without any allocation at all has no cause; there is none here.
  expect(caused.reduce((sum, each) => sum + each, 0)).toBeCloseTo(fill.collections, 6);
});

test('what is found causes its part of the collections, not all of them', () => {
  const recording = world();
  const flows = spanFlows(recording, SPAN);
  const fill = youngFill(recording, SPAN, flows);
  const groups = chargeGroups(recording, 'site');
  const all = youngCaused(recording, fill, groups, { chosen: null, flows });
  const found = youngCaused(recording, fill, groups, { chosen: findOrigins(recording, 'site1'), flows });
  expect([...found].filter((count) => count > 0)).toHaveLength(1);
  found.forEach((count, group) => {
    if (count > 0) expect(count).toBeCloseTo(all[group]!, 9);
  });
});

test('without collections nothing is caused', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  addObject(recording, { bornMs: 5, bytes: 100, site: 'a' });
  addFlow(recording, { fromMs: 0, toMs: 10, bytes: 100, site: 'a' });
  const flows = spanFlows(recording, SPAN);
  const fill = youngFill(recording, SPAN, flows);
  expect([
    fill.collections,
    [...youngCaused(recording, fill, chargeGroups(recording, 'site'), { chosen: null, flows })],
  ]).toEqual([0, [0]]);
});

test('the median lifetime lies where half of the bytes are dead, though many are still alive', () => {
  // Without collections each death was noticed when it happened.
  const recording = world(false);
  const groups = chargeGroups(recording, 'site');
  const medians = medianLifetimes(recording, SPAN, groups, { chosen: null, flows: [] });
  // Lifetimes are exponential: medians of mean · ln 2; deaths here are exactly told, so both ends agree.
  for (const [group, expected] of [
    [0, 20 * Math.LN2],
    [1, 1500 * Math.LN2],
  ] as const) {
    const { lowMs, highMs } = medians[group]!;
    expect(lowMs).toBeLessThanOrEqual(expected * 1.12);
    expect(highMs).toBeGreaterThanOrEqual(expected * 0.9);
    expect(highMs / lowMs).toBeLessThan(1.07);
  }
  expect(medians[2]!.highMs).toBeNaN();
  expect(medians[2]!.oldestMs).toBeGreaterThan(9000);
});

test('a death that is noticed late makes the median a range; flows died within their interval', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  for (let n = 0; n < 100; n++) {
    const row = addObject(recording, { bornMs: n * 10, diedMs: n * 10 + 400, bytes: 10, site: 'a' });
    recording.tables.objects.col.diedSlackMs[row] = 300;
  }
  addFlow(recording, { fromMs: 0, toMs: 500, bytes: 800, site: 'b' });
  recording.reach(10_000);
  const [a, b] = medianLifetimes(recording, SPAN, chargeGroups(recording, 'site'), {
    chosen: null,
    flows: spanFlows(recording, SPAN),
  });
  expect(a!.lowMs).toBeGreaterThan(93);
  expect(a!.lowMs).toBeLessThanOrEqual(100);
  expect(a!.highMs).toBe(400);
  expect([b!.lowMs, b!.highMs]).toEqual([0, 500]);
  expect(
    medianLifetimes(recording, SPAN, chargeGroups(recording, 'site'), { chosen: new Uint8Array(2), flows: [] }),
  ).toEqual([null, null]);
});

test('ages are in classes a sixteenth of a doubling wide', () => {
  const classes = new AgeClasses();
  for (let ageMs = 0.07; ageMs < 1e9; ageMs *= 1.37) {
    const at = classes.of(ageMs);
    expect(classes.from(at)).toBeLessThanOrEqual(Math.fround(ageMs));
    expect(classes.from(at + 1)).toBeGreaterThan(ageMs);
    expect(classes.from(at + 1) / classes.from(at)).toBeLessThan(1.0626);
  }
  expect([classes.of(0), classes.of(-1), classes.of(NaN), classes.of(1e30), classes.from(0)]).toEqual([
    0,
    0,
    0,
    CLASSES - 1,
    0,
  ]);
});
