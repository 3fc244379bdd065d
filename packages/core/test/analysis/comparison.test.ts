import { writeFileSync } from 'node:fs';
import { matchKeys } from '../../src/analysis/comparison/match-keys.ts';
import { NameRules } from '../../src/analysis/comparison/name-rules.ts';
import { chargeText } from '../../src/model/charge.ts';
import { Recording } from '../../src/model/recording.ts';
import { NONE } from '../../src/base/ids.ts';
import { recordingOf } from '../build-recording.ts';
import { simulatePair, SITES } from '../comparison-simulation.ts';

/** More of them for the table of docs: `PAIR_RUNS=1000 PAIR_TABLE=/tmp/table.md npx jest comparison.test`. */
const RUNS = Number(process.env['PAIR_RUNS'] ?? 14);
const TABLE = process.env['PAIR_TABLE'];
const rows: string[] = [];
afterAll(() => {
  if (TABLE !== undefined) writeFileSync(TABLE, `${rows.join('\n')}\n`);
});

describe('seeded pairs whose differences are known', () => {
  const OTHERS = SITES.map((site, at) =>
    at % 3 === 0 ? { ...site, perSecond: site.perSecond * 2, staysRatio: site.staysRatio / 2 } : site,
  );

  // The spread over time widens intervals of growth beyond the error of sampling.
  test.each([
    ['allocated', 0.98],
    ['kept', 0.98],
    ['growth', 1],
  ] as const)('intervals hold the truth as often as they say: %s', (of, most) => {
    let [hits, trials] = [0, 0];
    for (let seed = 1; seed <= RUNS; seed++) {
      const { changes, nameOf, truth } = simulatePair(of, seed, OTHERS);
      for (const change of changes) {
        // What keeps nothing on both sides has no interval.
        if (change.low === change.high || Number.isNaN(change.low)) continue;
        const wanted = truth(nameOf(change));
        trials++;
        if (change.low <= wanted && wanted <= change.high) hits++;
      }
    }
    rows.push(`| ${of} | ${trials} | ${((100 * hits) / trials).toFixed(1)} % |`);
    expect(trials).toBeGreaterThan(2 * RUNS);
    // Of so few the share is known to a few hundredths; the table of docs is of 500.
    expect(hits / trials).toBeGreaterThan(RUNS < 100 ? 0.88 : 0.93);
    expect(hits / trials).toBeLessThanOrEqual(most);
  });

  test.each(['allocated', 'kept', 'growth'] as const)('of a program beside itself nothing is clear: %s', (of) => {
    let tables = 0;
    for (let seed = 1; seed <= RUNS; seed++) if (simulatePair(of, seed).changes.some(({ clear }) => clear)) tables++;
    rows.push(`| ${of}, the same on both sides | ${RUNS} | ${tables} tables with a clear key |`);
    // Of so few tables one is expected at most.
    expect(tables / RUNS).toBeLessThanOrEqual(RUNS < 100 ? 0.125 : 0.065);
  });

  test('a difference that is there is found, and B against A is A against B with its signs turned', () => {
    const doubled = SITES.map((site) => (site.name === 'site4' ? { ...site, perSecond: site.perSecond * 3 } : site));
    const { changes, nameOf } = simulatePair('allocated', 7, doubled);
    const clear = changes.filter((change) => change.clear);
    expect(clear.map(nameOf).map((name) => name.split(' ')[0])).toEqual(['site4']);
    expect(clear[0]!.difference).toBeGreaterThan(0);
  });
});

describe('keys that a build moves', () => {
  const of = (frames: readonly (readonly [string, string, number])[]): [Recording, number[]] => {
    const recording = recordingOf([], 1000);
    const keys = frames.map(([name, file, line]) => recording.internFrame(name, file, line, 1));
    return [recording, keys];
  };
  const matched = (a: ReturnType<typeof of>, b: ReturnType<typeof of>, rules?: readonly string[]) =>
    matchKeys(a, b, 'site', new NameRules(rules))
      .map(({ a: left, b: right, by }) => {
        const text = ([recording]: ReturnType<typeof of>, key: number | null): string =>
          key === null ? '' : chargeText(recording, 'site', key);
        return [text(a, left), text(b, right), by];
      })
      .sort();

  test('the same function some lines further on is the same key, the nearest first', () => {
    const a = of([
      ['keep', '/srv/a.js', 10],
      ['keep', '/srv/a.js', 90],
      ['gone', '/srv/a.js', 5],
    ]);
    const b = of([
      ['keep', '/srv/a.js', 13],
      ['keep', '/srv/a.js', 91],
      ['new', '/srv/a.js', 5],
    ]);
    expect(matched(a, b)).toEqual([
      ['', 'new a.js:5', null],
      ['gone a.js:5', '', null],
      ['keep a.js:10', 'keep a.js:13', 'line'],
      ['keep a.js:90', 'keep a.js:91', 'line'],
    ]);
  });

  test('hashes, versions and numbers of lambdas do not count; what stays different is two keys', () => {
    const a = of([
      ['draw', '/srv/chunk-3f9a2c1b.js', 1],
      ['read', '/srv/node_modules/.store/tide@1.2.3/read.js', 4],
      ['Weir$$Lambda$17', 'Weir.java', 2],
      ['keep', '/old/release/a.js', 3],
    ]);
    const b = of([
      ['draw', '/srv/chunk-77aa01cd.js', 1],
      ['read', '/srv/node_modules/.store/tide@1.10.0-beta.2/read.js', 4],
      ['Weir$$Lambda$29', 'Weir.java', 2],
      ['keep', '/new/release/a.js', 3],
    ]);
    expect(
      matched(a, b)
        .map(([, , by]) => by)
        .sort(),
    ).toEqual(['folder', 'rule', 'rule', 'rule']);
    // Without the rules three of them are other keys.
    expect(matched(a, b, ['never{n}']).filter(([, , by]) => by === null)).toHaveLength(4);
  });

  test('thousands of one name are paired without comparing each with each, and unknown keys are paired', () => {
    const many = Array.from({ length: 3000 }, (_, at) => ['(anonymous)', '/srv/bundle.js', at + 1] as const);
    const [a, b] = [of(many), of(many.map(([name, file, line]) => [name, file, line + 7000] as const))];
    expect(matched(a, b).filter(([, , by]) => by === 'line')).toHaveLength(3000);
    expect(matchKeys([recordingOf([], 1), [NONE]], [recordingOf([], 1), [NONE]], 'type', new NameRules())).toEqual([
      { a: NONE, b: NONE, by: 'name' },
    ]);
  });

  test('a rule must stand for something, and a hostile name takes no time', () => {
    expect(() => new NameRules(['plain text'])).toThrow(/expected a rule with \{hash\}/);
    const rules = new NameRules();
    const started = performance.now();
    for (const part of ['1.', 'a1', '-1.1', '$$Lambda$1', '9'.repeat(40)]) rules.plain(part.repeat(20_000));
    expect(performance.now() - started).toBeLessThan(5000);
  });
});
