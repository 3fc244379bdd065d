import type { SideAsk } from '../../src/study/side.ts';
import type { ComparisonAnswer } from '../../src/measures/comparison.ts';
import { askPair, PAIR_MEASURES } from '../../src/measures/registry.ts';
import type { Recording } from '../../src/model/recording.ts';
import { PauseFlag } from '../../src/model/tables.ts';
import { Study } from '../../src/study/study.ts';
import { addCollection, addObject, followObjects, recordingOf } from '../build-recording.ts';
import { fixed, fixedWeirs, leak, log, sample, weirs } from './samples.ts';

const MIB = 1024 * 1024;
const cached = sample('recordings/tidewatch-with-its-bulletins-cached.heron');
const window = sample('recordings/tidewatch-with-its-window.heron');
const spectrum = sample('recordings/tidewatch-with-its-spectrum.heron');
const parallel = sample('logs/weirkeeper-parallel.log');
const trace = sample('logs/tidewatch-trace.log');

function compared(a: Recording, b: Recording, ask: object = {}, sides: [SideAsk, SideAsk] = [{}, {}]) {
  const [left, right] = [new Study({ runs: [a] }), new Study({ runs: [b] })];
  return askPair([left, sides[0]], [right, sides[1]], 'comparison', ask) as ComparisonAnswer;
}

test.each([
  [
    'the leak and the fix',
    leak,
    fixed,
    'fixed',
    /^Fixed: what subscribe alerts\.js:14 adds fell from 5\.00 to 0\.\d+ ± /,
  ],
  ['the faults of the weirs and their fix', weirs, fixedWeirs, 'fixed', /^Fixed: what Weirkeeper\.Schedule\.<init> /],
  [
    'the fix undone',
    fixed,
    leak,
    'worse',
    /^Worse: memory grows 4\.99 MiB\/min .* by subscribe alerts\.js:14, and did not in A/,
  ],
  ['another fault in its place', leak, cached, 'mixed', /^Another site grows now: render bulletins\.js:15 adds/],
  ['nothing was changed', leak, leak, 'same', /^Not fixed: memory grows 4\.99 MiB\/min, and grew 4\.99 MiB\/min/],
  ['a window that is gone', window, fixed, 'better', /^Better: collecting takes .* Memory grows in neither\.$/],
  ['bursts that are gone', spectrum, fixed, 'better', /^Better: the bursts of A are gone: the peak is/],
  ['another collector', log, parallel, 'mixed', /^Mixed, not fixed: .*The old space of B was full at/],
  ['a log beside a recording', log, fixedWeirs, 'fixed', /^Fixed: growth fell from/],
  [
    'a log that tells too little',
    leak,
    trace,
    'unclear',
    /^Cannot be told yet: B needs \d more whole-heap collections/,
  ],
] as const)('%s', (_, a, b, outcome, sentence) => {
  const answer = compared(a, b);
  expect([answer.outcome, answer.sentence]).toEqual([outcome, expect.stringMatching(sentence)]);
});

test('a moment as a side is what was until then, a round what is between its marks', () => {
  const [early, late] = [20_000, 60_000].map((tMs): SideAsk => ({ extent: { kind: 'moment', tMs } }));
  const moments = compared(leak, leak, { of: 'kept' }, [early!, late!]);
  expect([moments.a.span, moments.b.span]).toEqual([
    { fromMs: 0, toMs: 20_000 },
    { fromMs: 0, toMs: 60_000 },
  ]);
  const subscribe = moments.keys.find(({ name }) => name === 'subscribe')!;
  expect(subscribe.clear).toBe(true);
  // 5 MiB a minute over the forty seconds between.
  expect(subscribe.kept[1].value - subscribe.kept[0].value).toBeGreaterThan(2.5 * MIB);
  expect(subscribe.kept[1].value - subscribe.kept[0].value).toBeLessThan(4.2 * MIB);
  const [{ label, times }] = moments.a.rounds as [{ label: string; times: number }];
  const round = (number: number): SideAsk => ({ extent: { kind: 'round', label, number } });
  const rounds = compared(leak, leak, {}, [round(1), round(times)]);
  expect(rounds.a.span.toMs).toBeLessThan(rounds.b.span.fromMs);
  expect(() => compared(leak, leak, {}, [round(1), round(times + 1)])).toThrow(/expected a round of/);
  expect(() => compared(leak, leak, {}, [round(1), { extent: { kind: 'round', label: 'none', number: 1 } }])).toThrow(
    /found none called “none”/,
  );
});

test('a side beside itself differs in nothing, by every charge and span', () => {
  const span = { extent: { kind: 'span', fromMs: 20_000, toMs: 60_000 } } as const;
  for (const charge of ['site', 'ownFrame', 'function', 'file', 'package', 'type'])
    for (const side of [{}, span]) {
      const { figures, keys } = compared(leak, leak, { charge }, [side, side]);
      expect(figures.filter(({ difference, clear }) => clear || Math.abs(difference) > 0)).toEqual([]);
      expect(
        keys.filter(({ difference, clear, state }) => clear || Math.abs(difference) > 0 || state !== 'both'),
      ).toEqual([]);
    }
});

test('B against A is A against B with its signs turned', () => {
  const [one, other] = [compared(leak, cached), compared(cached, leak)];
  for (const figure of one.figures) {
    const turned = other.figures.find(({ name, per }) => name === figure.name && per === figure.per)!;
    expect(turned.difference).toBeCloseTo(-figure.difference, 9);
    if (Number.isFinite(figure.low)) expect(turned.high).toBeCloseTo(-figure.low, 6);
    expect(turned.clear).toBe(figure.clear);
  }
  const named = (answer: ComparisonAnswer, key: string) => answer.keys.find((each) => each.key === key)!;
  for (const key of one.keys.filter(({ state }) => state === 'both')) {
    const turned = named(other, key.key);
    if (!Number.isNaN(key.difference)) expect(turned.difference).toBeCloseTo(-key.difference, 9);
    expect(turned.clear).toBe(key.clear);
  }
  const states = (answer: ComparisonAnswer): number[] =>
    ['new', 'gone'].map((state) => answer.keys.filter((each) => each.state === state).length);
  expect(states(one)).toEqual(states(other).reverse());
});

test('the contract has what programs rely on', () => {
  const told = PAIR_MEASURES.comparison.contract!.of(compared(leak, fixed)) as {
    a: { verdict: { kind: string } };
    figures: { name: string; per: string; difference: number | null; clear: boolean }[];
    keys: { name: string; aGrowthBytesPerSec: number; clear: boolean; state: string }[];
  };
  expect(told).toMatchObject({ outcome: 'fixed', a: { durationMs: expect.any(Number), verdict: { kind: 'growing' } } });
  expect(told.keys[0]).toMatchObject({ name: 'subscribe alerts.js:14', clear: true, state: 'both' });
  expect(told.keys[0]!.aGrowthBytesPerSec * 60).toBeGreaterThan(4 * MIB);
  const pers = told.figures.filter(({ name }) => name === 'paused').map(({ per }) => per);
  expect(pers).toEqual(['all', 'second', 'allocatedMiB', 'collection', 'round']);
});

describe('what must not be called fixed', () => {
  /** Whole collections a second with a heap that rises, and work that is allocated between them. */
  const program = (leakBytes: number, workBytes: number, seconds = 60): Recording => {
    const recording = recordingOf([], seconds * 1000);
    followObjects(recording);
    for (let at = 0; at < seconds; at++) {
      const after = 10 * MIB + at * leakBytes + (at % 3) * 20_000;
      addCollection(recording, { startMs: at * 1000 + 500, ms: 5, before: after + workBytes, after });
      for (let n = 0; n < 8; n++) addObject(recording, { bornMs: at * 1000 + n, bytes: leakBytes / 8, site: 'keep' });
    }
    recording.reach(seconds * 1000);
    return recording;
  };

  test('a program that did next to nothing', () => {
    const [busy, idle] = [program(100_000, 20 * MIB), program(0, 30_000)];
    const answer = compared(busy, idle);
    expect([answer.outcome, answer.sentence]).toEqual(['unclear', expect.stringMatching(/B did much less, /)]);
    expect(compared(busy, program(0, 20 * MIB)).outcome).toBe('fixed');
  });

  test('one that ran for too short a time, and one whose heap was full', () => {
    expect(compared(program(100_000, MIB), program(0, MIB, 3))).toMatchObject({ outcome: 'unclear' });
    const full = program(0, MIB);
    full.heaps[0]!.outOfMemoryMs = 30_000;
    expect(compared(program(100_000, MIB), full)).toMatchObject({ outcome: 'worse' });
    expect(compared(full, full)).toMatchObject({ outcome: 'same' });
    const mended = compared(full, program(0, MIB));
    expect([mended.outcome, mended.sentence]).toEqual(['fixed', expect.stringMatching(/^Fixed: A ran out of room, /)]);
  });

  test('pauses that the recorder made count for neither side', () => {
    const [one, other] = [program(0, MIB), program(0, MIB)];
    other.tables.pauses.col.flags.fill(PauseFlag.own);
    const figure = compared(one, other).figures.find(({ name, per }) => name === 'pauses' && per === 'all')!;
    expect([figure.a.value, figure.b.value]).toEqual([60, 0]);
  });
});

test('with nothing in common it is said so', () => {
  const [a, b] = [recordingOf([], 1000), recordingOf([], 1000)];
  expect(compared(a, b).outcome).toBe('unclear');
  expect(compared(a, b).figures).toEqual([]);
  expect(compared(leak, log).notes.join(' ')).toContain('keys cannot be compared');
  expect(compared(leak, weirs).notes.join(' ')).toContain('not all that differs need come from the program');
});

test('what is asked wrongly is told in words', () => {
  const study = new Study({ runs: [leak] });
  expect(() => askPair([study, {}], [study, {}], 'growth', {})).toThrow(
    /expected a measure of comparison, pathChanges, inventoryChanges, found/,
  );
  expect(() => askPair([study, {}], [study, {}], 'comparison', { of: 'size' })).toThrow(/cannot be asked so.*of/);
  expect(() => askPair([study, {}], [study, {}], 'comparison', { rules: ['x'] })).toThrow(/expected a rule with/);
});
