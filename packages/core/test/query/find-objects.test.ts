import fc from 'fast-check';
import { chargeTable } from '../../src/analysis/charge-table.ts';
import { fateValues } from '../../src/analysis/fates.ts';
import { ObjectIndex } from '../../src/analysis/object-index.ts';
import { flowSums } from '../../src/analysis/flow-sums.ts';
import { spanSums } from '../../src/analysis/span-sums.ts';
import { Recording } from '../../src/model/recording.ts';
import { completeFind, findWords, takeOption } from '../../src/query/complete-find.ts';
import { asksForObjects, findKinds, findObjects } from '../../src/query/find-objects.ts';
import { findParts, findTermText, readFind } from '../../src/query/find-terms.ts';
import { addFlow, addObject, followObjects } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

const SPAN = { fromMs: 2000, toMs: 9000 };
const SETTLE_MS = 700;

function world(): Recording {
  const random = seeded(21);
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  for (let n = 0; n < 4000; n++) {
    const bornMs = n * 2.5;
    const probability = random() < 0.3 ? NaN : random() < 0.5 ? 1 : 0.25;
    const row = addObject(recording, {
      bornMs,
      bytes: 2 ** (4 + Math.floor(random() * 12)),
      site: `site${n % 5}`,
      type: `Type${n % 3}`,
      probability,
      ...(random() < 0.7 ? { diedMs: bornMs + random() * 3000 } : {}),
    });
    if (random() < 0.05) recording.tables.objects.col.lost[row] = 1;
  }
  for (let n = 0; n < 20; n++)
    addFlow(recording, {
      fromMs: n * 500,
      toMs: (n + 1) * 500,
      bytes: 10_000,
      site: `site${n % 5}`,
      type: `Type${n % 3}`,
    });
  recording.reach(10_000);
  return recording;
}

// The plain reading of what the terms mean.
const MEANINGS: readonly (readonly [
  string,
  (object: { size: number; p: number; age: number; fate: string }) => boolean,
])[] = [
  ['size>1KiB', ({ size, p }) => !Number.isNaN(p) && size > 1024],
  ['size>=1KiB', ({ size, p }) => !Number.isNaN(p) && size >= 1024],
  ['size=64..256', ({ size, p }) => !Number.isNaN(p) && size >= 64 && size <= 256],
  ['!size=64..256', ({ size, p }) => !Number.isNaN(p) && !(size >= 64 && size <= 256)],
  ['age<500ms', ({ age }) => age < 500],
  ['age=1s..2s fate=died', ({ age, fate }) => age >= 1000 && age <= 2000 && fate === 'died'],
  ['fate=kept', ({ fate }) => fate === 'kept'],
  ['fate=kept fate=recent', ({ fate }) => fate === 'kept' || fate === 'recent'],
  ['!fate=died', ({ fate }) => fate === 'kept' || fate === 'recent'],
  ['kind=object', () => true],
  ['kind=flow', () => false],
  ['!kind=object', () => false],
];

test.each(MEANINGS)('%s finds the objects of which it holds by the end of the span', (find, holds) => {
  const recording = world();
  const { bornMs, endMs, lost, sizeBytes, probability } = recording.tables.objects.col;
  const expected: number[] = [];
  let untold = 0;
  for (let row = 0; row < recording.tables.objects.length; row++) {
    const over = endMs[row]! < SPAN.toMs;
    const age = (over ? endMs[row]! : SPAN.toMs) - bornMs[row]!;
    const fate =
      bornMs[row]! >= SPAN.toMs || (over && lost[row] === 1)
        ? 'unknown'
        : over
          ? 'died'
          : age < SETTLE_MS
            ? 'recent'
            : 'kept';
    if (Number.isNaN(probability[row]!)) untold++;
    if (holds({ size: sizeBytes[row]!, p: probability[row]!, age, fate }) && (age >= 0 || !find.includes('age')))
      expected.push(bornMs[row]!);
  }
  const found = findObjects(recording, find, SPAN, SETTLE_MS);
  expect([...found.part.tables.objects.col.bornMs.subarray(0, found.part.tables.objects.length)]).toEqual(expected);
  expect(found.sizeUntold).toBe(find.includes('size') ? untold : 0);
});

test.each([
  ['kind=flow', true],
  ['kind=object', false],
  ['fate=died', true],
  ['fate=kept', false],
  ['size>1', false],
  ['age<1s', false],
])('with %s flows count: %p', (find, withFlows) => {
  const recording = world();
  const { part, withFlows: has } = findObjects(recording, find, SPAN, SETTLE_MS);
  expect([has, part.tables.flows.length]).toEqual([withFlows, withFlows ? 20 : 0]);
  expect(recording.tables.flows.length).toBe(20);
});

test('a fate looked for is the same as a fate counted', () => {
  const recording = world();
  const whole = spanSums(new ObjectIndex(recording), SPAN, SETTLE_MS);
  for (const fate of ['kept', 'died'] as const) {
    const { part } = findObjects(recording, `fate=${fate}`, SPAN, SETTLE_MS);
    const flows = fate === 'died' ? whole.flows : flowSums(part, SPAN);
    const sums = spanSums(new ObjectIndex(part), SPAN, SETTLE_MS, flows);
    const counted = fateValues(whole, fate);
    const found = fateValues(sums, 'all');
    for (const column of ['bytes', 'variance'] as const)
      found[column].forEach((value, originId) => {
        expect(Math.abs(value - counted[column][originId]!)).toBeLessThanOrEqual(
          1e-9 * Math.max(1, counted[column][originId]!),
        );
      });
    expect(chargeTable(part, sums, 'type').rows.reduce((sum, row) => sum + row.allocBytes, 0)).toBeCloseTo(
      counted.bytes.reduce((sum, each) => sum + each, 0),
      3,
    );
  }
});

test('what is found shares what the engineer says of the recording, and takes nothing from it', () => {
  const recording = world();
  const { part } = findObjects(recording, 'size>1KiB', SPAN, SETTLE_MS);
  recording.givenLimitBytes = 123;
  expect([part.limitBytes(), part.durationMs, recording.tables.objects.length]).toEqual([
    123,
    recording.durationMs,
    4000,
  ]);
});

test.each([
  ['size>', /^expected a size as size>1MiB, .*, found "size>"$/],
  ['size>big', /found "size>big"$/],
  ['size=4KiB..1KiB', /found "size=4kib..1kib"$/],
  ['size>1..2', /found/],
  ['age=5s', /^expected an age as age>1min/],
  ['age>1MiB', /^expected an age/],
  ['fate=gone', /^expected fate=kept, fate=died, fate=recent, found "fate=gone"$/],
  ['kind>object', /^expected kind=object/],
  ['thread="tide 1', /^expected a closing quote in thread="tide 1$/],
  ['size>1MiB age<5s', /^$/],
  ['heap=worker', /^$/],
])('of %j it says %s', (text, problem) => {
  expect(readFind(text).problem).toMatch(problem);
});

test('quotes keep blanks together', () => {
  expect(readFind('thread="Tide Worker 1" !"a b"').terms).toEqual([
    { is: 'word', word: 'tide worker 1', place: 'thread', line: 0, not: false },
    { is: 'word', word: 'a b', place: null, line: 0, not: true },
  ]);
  expect([findTermText('thread', 'tide worker'), findTermText('type', 'byte[]')]).toEqual([
    'thread="tide worker"',
    'type=byte[]',
  ]);
});

test('any text is taken apart into what stands there, and can be completed anywhere', () => {
  const words = findWords(world(), () => 1);
  fc.assert(
    fc.property(fc.string(), fc.nat(40), (text, caret) => {
      for (const part of findParts(text)) expect(text.slice(part.from, part.to)).toBe(part.text);
      const at = Math.min(caret, text.length);
      expect(completeFind(words, text, at).length).toBeLessThanOrEqual(10);
      const taken = takeOption(text, at, 'fate=kept');
      expect(taken.text.slice(0, taken.caret).trimEnd()).toMatch(/fate=kept$/);
      readFind(text);
      asksForObjects(text);
      findKinds(text);
    }),
    { seed: 1 },
  );
});

test('what is typed is completed with terms, then with the words that weigh most', () => {
  const recording = world();
  const words = findWords(recording, (originId) => originId);
  const texts = (text: string, caret = text.length): string[] =>
    completeFind(words, text, caret).map((option) => option.text);
  expect(texts('fa')).toEqual(['fate=kept', 'fate=died', 'fate=recent']);
  expect(texts('type=')).toEqual(['type=Type2', 'type=Type1', 'type=Type0']);
  expect(texts('x !type=type1 y', 13)).toEqual(['!type=Type1']);
  expect(texts('site3')).toEqual(['function=site3', 'file=site3.js']);
  expect(texts('')).toEqual([]);
});

test('an option takes the place of the term under the caret, whatever was offered for what stood there before', () => {
  expect(takeOption('ab type=Ty cd', 10, 'type=Type1')).toEqual({ text: 'ab type=Type1 cd', caret: 13 });
  // The list may still be that of "!type=f" when all of it is typed.
  expect(takeOption('!type=flo', 9, '!type=Float64Array')).toEqual({ text: '!type=Float64Array ', caret: 19 });
  expect(takeOption('ab  cd', 3, 'type=')).toEqual({ text: 'ab type= cd', caret: 8 });
  expect(takeOption('', 0, 'size>64 fate=kept')).toEqual({ text: 'size>64 fate=kept ', caret: 18 });
});

test('what was born while the program waited is found, and what was born while it worked', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  // Works for four seconds, waits three with a little of its own, works again, rests for half a second, and works.
  const works = (tMs: number): boolean => tMs < 4000 || (tMs >= 7000 && tMs < 9000) || tMs >= 9500;
  for (let tMs = 0; tMs < 12_000; tMs += 10)
    if (works(tMs)) addObject(recording, { bornMs: tMs, bytes: 4096, site: 'busy', probability: 1 });
  for (const tMs of [4000, 5100, 6999, 9200])
    addObject(recording, { bornMs: tMs, bytes: 64, site: 'idle', probability: 1 });
  recording.durationMs = 12_000;
  const born = (find: string): number[] => {
    const { part } = findObjects(recording, find, { fromMs: 0, toMs: 12_000 }, SETTLE_MS);
    return Array.from(part.tables.objects.col.bornMs.slice(0, part.tables.objects.length));
  };
  expect(born('when=idle')).toEqual([4000, 5100, 6999]);
  expect(born('when=busy')).toHaveLength(recording.tables.objects.length - 3);
  expect(born('!when=busy')).toEqual([4000, 5100, 6999]);
  expect(born('when=idle when=busy')).toHaveLength(recording.tables.objects.length);
  expect(readFind('when=never').problem).toContain('expected when=idle, when=busy, found "when=never"');
  // What came and went unseen is work too.
  addFlow(recording, { fromMs: 4000, toMs: 7000, bytes: 1e6, site: 'busy' });
  expect(born('when=idle')).toEqual([]);
});
