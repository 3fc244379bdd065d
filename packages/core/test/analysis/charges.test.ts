import fc from 'fast-check';
import type { SettledLevels } from '../../src/analysis/charge-figures.ts';
import { chargeTable } from '../../src/analysis/charge-table.ts';
import { movingTogether } from '../../src/analysis/moving-together.ts';
import { ObjectIndex } from '../../src/analysis/object-index.ts';
import { seriesPattern } from '../../src/analysis/series-pattern.ts';
import { spanSums } from '../../src/analysis/span-sums.ts';
import { NONE } from '../../src/base/ids.ts';
import { chargeGroups, CHARGES, chargeText, keyText } from '../../src/model/charge.ts';
import { packageName } from '../../src/model/package-name.ts';
import { Recording } from '../../src/model/recording.ts';
import { wholeSpan } from '../../src/model/whole-span.ts';
import { findOrigins } from '../../src/query/find-origins.ts';
import { readFind } from '../../src/query/find-terms.ts';
import { addObject, followObjects } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

function world(): Recording {
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  for (let tMs = 0; tMs < 60_000; tMs += 200) {
    addObject(recording, { bornMs: tMs, bytes: 32, site: 'enter', type: 'Entry', thread: 'tide-1' });
    for (let n = 0; n < 2; n++)
      addObject(recording, { bornMs: tMs, bytes: 24, site: 'enter', type: 'Reading', thread: 'tide-1' });
    addObject(recording, {
      bornMs: tMs,
      diedMs: tMs + 100,
      bytes: 500,
      site: 'parse',
      type: 'char[]',
      thread: 'tide-2',
    });
    if (tMs % 20_000 === 0)
      addObject(recording, { bornMs: tMs, bytes: 100_000, site: 'render', type: 'Page', thread: 'tide-2' });
  }
  recording.reach(60_000);
  return recording;
}

const table = (recording: Recording, charge: (typeof CHARGES)[number], find = '') =>
  chargeTable(
    recording,
    spanSums(new ObjectIndex(recording), wholeSpan(recording)),
    charge,
    findOrigins(recording, find),
  );

test.each(CHARGES)('charged to %s, the sums are those of the events', (charge) => {
  const recording = world();
  const { rows } = table(recording, charge);
  expect(rows.reduce((sum, row) => sum + row.allocBytes, 0)).toBe(300 * (32 + 48 + 500) + 3 * 100_000);
  expect(rows.reduce((sum, row) => sum + row.allocCount, 0)).toBe(300 * 4 + 3);
  expect(rows.reduce((sum, row) => sum + row.keptSamples, 0) + table(recording, charge).recentLeftOut).toBe(
    300 * 3 + 3,
  );
});

test('types are told apart within a site, and a site has the type it keeps most of', () => {
  const recording = world();
  const types = table(recording, 'type').rows.map((row) => [chargeText(recording, 'type', row.key), row.allocCount]);
  expect(Object.fromEntries(types)).toEqual({ Entry: 300, Reading: 600, 'char[]': 300, Page: 3 });
  const sites = table(recording, 'site').rows.map((row) => [
    chargeText(recording, 'site', row.key),
    chargeText(recording, 'type', row.typeId),
  ]);
  expect(Object.fromEntries(sites)).toMatchObject({
    'enter enter.js:1': 'Reading',
    'parse parse.js:1': 'char[]',
    'render render.js:1': 'Page',
  });
  expect(
    table(recording, 'thread')
      .rows.map((row) => chargeText(recording, 'thread', row.key))
      .sort(),
  ).toEqual(['tide-1', 'tide-2']);
});

test('types of which one comes with two of another move together, one to two', () => {
  const recording = world();
  const [group, ...others] = movingTogether(table(recording, 'type'));
  expect(group!.keys.map((key) => chargeText(recording, 'type', key))).toEqual(['Reading', 'Entry']);
  expect(group!.ratios[0]! / group!.ratios[1]!).toBeCloseTo(2, 6);
  expect(group!.rho).toBeGreaterThan(0.99);
  expect(others).toEqual([]);
});

test.each([
  ['', 4],
  ['READING', 1],
  ['enter tide-1', 2],
  ['parse.js', 1],
  ['enter parse', 0],
  ['no such thing', 0],
  ['type=entry', 1],
  ['function=enter', 2],
  ['file=enter type=reading', 1],
  ['!enter', 2],
  ['!type=entry', 3],
  ['thread=tide-2 !function=parse', 1],
  ['type=enter', 0],
])('the words %j find %i types', (find, count) => {
  expect(table(world(), 'type', find).rows).toHaveLength(count);
});

test.each([
  [
    'weir=3 parse',
    1,
    /^expected one of function=, file=, package=, type=, thread=, heap=, space=, line=, size=, age=, born=, fate=, when=, kind= before a word, found "weir="$/,
  ],
  ['type=', 0, /^expected a word after "type="/],
  ['!', 0, /^$/],
  ['a==b', 0, /before a word/],
  ['=x', 1, /^$/],
  ['node:timers', 1, /^$/],
  ['Map<K,V>', 1, /^$/],
])('the find %j has %i words and says what it did not understand', (text, words, problem) => {
  expect(readFind(text).terms).toHaveLength(words);
  expect(readFind(text).problem).toMatch(problem);
});

test('any text at all is a find', () => {
  fc.assert(
    fc.property(fc.string(), (text) => {
      expect(readFind(text).terms.every((term) => term.is !== 'word' || term.word.length > 0)).toBe(true);
    }),
    { seed: 1 },
  );
});

test('what has no path, type or thread is counted as unknown', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  recording.internOrigin(NONE, NONE, NONE, 0);
  for (const charge of CHARGES) {
    const { groupOf, keys } = chargeGroups(recording, charge);
    expect([groupOf.length, keys.length]).toEqual([1, 1]);
    expect(chargeText(recording, charge, keys[0]!)).toBe(
      charge === 'heap' ? 'main' : charge === 'space' ? 'the heap' : '(unknown)',
    );
  }
});

test('an origin is kept once, however many there are', () => {
  const random = seeded(9);
  const recording = new Recording('recording');
  const known = new Map<string, number>();
  for (let n = 0; n < 20_000; n++) {
    const ids = [
      random() < 0.1 ? NONE : Math.floor(random() * 60),
      Math.floor(random() * 20),
      Math.floor(random() * 5),
      Math.floor(random() * 2),
    ] as const;
    const originId = recording.internOrigin(...ids);
    expect(known.get(ids.join()) ?? originId).toBe(originId);
    known.set(ids.join(), originId);
  }
  expect(recording.tables.origins.length).toBe(known.size);
});

test.each([
  ['file:///srv/node_modules/@tide/kit/lib/x.js', '@tide/kit'],
  ['/srv/node_modules/a/node_modules/b/x.js', 'b'],
  ['node:internal/timers', 'node:internal/timers'],
  ['java/util/HashMap.java', 'java.util'],
  ['Weir.java', '(no package)'],
  ['file:///srv/tide/alerts.js', '/srv/tide'],
  ['', 'the runtime'],
])('%j belongs to %j', (file, name) => {
  expect(packageName(file)).toBe(name);
});

describe('the pattern of a series', () => {
  const moments = Float64Array.from({ length: 48 }, (_, n) => n * 1000);
  const of = (liveBytes: Float64Array, growthLow: number, growthHigh: number, tau: number, keptBytesSe = 0) =>
    seriesPattern(moments, { live: { bytes: liveBytes } as SettledLevels, growthLow, growthHigh, tau, keptBytesSe });

  test('is a staircase with its height and period', () => {
    const random = seeded(2);
    const stairs = moments.map((tMs) => 1_000_000 + Math.floor(tMs / 12_000) * 400_000 + random() * 500);
    expect(of(stairs, 1, 9, 0.9)).toMatchObject({
      kind: 'steps',
      times: 3,
      periodMs: 12_000,
      stepBytes: expect.closeTo(400_000, -3) as number,
    });
  });

  test('is no staircase where a sample or two make a step', () => {
    const stairs = moments.map((tMs) => Math.floor(tMs / 12_000) * 400_000 + 400_000);
    expect(of(stairs, 1, 9, 0.7, Math.sqrt(4) * 400_000)).toEqual({ kind: 'rises' });
  });

  test.each([
    [1, 9, 0.95, 'rises-steadily'],
    [1, 9, 0.4, 'rises'],
    [-9, -1, -0.9, 'falls'],
    [-1, 2, 0.6, 'unclear'],
    [-1, 2, 0.1, 'steady'],
  ])('with a slope of %d to %d and τ %d: %s', (low, high, tau, kind) => {
    expect(
      of(
        moments.map((tMs) => 5000 + tMs * 3),
        low,
        high,
        tau,
      ),
    ).toEqual({ kind });
  });

  test('is none while nothing is old enough', () => {
    expect(of(new Float64Array(48), 0, 0, 0)).toEqual({ kind: 'too-young' });
  });
});

test('frames that have the same words once they are placed are one key, with the sum of both', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  const running = [3, 9].map((line) => recording.internFrame('enter', 'file:///srv/dist/tide.js', line, 1));
  const objects = recording.tables.objects;
  for (const frame of running) {
    addObject(recording, { bornMs: 1, bytes: 100, site: 'other' });
    const path = recording.internPath(NONE, frame);
    objects.col.originId[objects.length - 1] = recording.internOrigin(path, NONE, NONE, 0);
  }
  recording.reach(1000);
  expect(table(recording, 'site').rows).toHaveLength(2);
  for (const frame of running) recording.placeFrame(frame, 'file:///srv/src/tide.ts', 4, 2);
  const { rows } = table(recording, 'site');
  expect(rows.map(({ key, allocBytes }) => [keyText(recording, 'site', key), allocBytes])).toEqual([
    ['enter (file:///srv/src/tide.ts:4:2)', 200],
  ]);
});

test('a thread that is called as what is not known has words of its own', () => {
  const recording = new Recording('recording');
  expect(keyText(recording, 'thread', NONE)).toBe('(unknown)');
  expect(keyText(recording, 'thread', recording.intern('(unknown)'))).toBe('"(unknown)"');
});
