import type { GrowthAnswer } from '../../src/measures/growth.ts';
import { askMeasure } from '../../src/measures/registry.ts';
import { PAST_MS } from '../../src/measures/survival-report.ts';
import type { SurvivalAnswer } from '../../src/measures/survival.ts';
import { shareAt } from '../../src/analysis/survival/curves.ts';
import { Study } from '../../src/study/study.ts';
import { leak, weirs } from './samples.ts';

const study = new Study({ runs: [leak] });
const survival = (curvesOf: unknown): SurvivalAnswer =>
  askMeasure(study, {}, 'survival', { most: 30, curvesOf }) as SurvivalAnswer;

test('points are told of the curves that are asked for, and everything else of all keys', () => {
  const all = survival(null);
  const withCurve = all.groups.filter(({ words, curve }) => words !== null && curve.length > 0);
  expect(withCurve.length).toBeGreaterThan(4);
  const wanted = withCurve[3]!.words!.key;
  const asks: readonly (readonly [unknown, readonly string[]])[] = [
    [2, withCurve.slice(0, 2).map(({ words }) => words!.key)],
    [[wanted, 'nobody'], [wanted]],
    [0, []],
  ];
  for (const [curvesOf, told] of asks) {
    const some = survival(curvesOf);
    expect(some.groups.filter(({ curve, words }) => words !== null && curve.length > 0)).toEqual(
      withCurve.filter(({ words }) => told.includes(words!.key)),
    );
    // All of them as one are always drawn.
    expect(some.groups[0]).toEqual(all.groups[0]);
    const bare = ({ groups, ...rest }: SurvivalAnswer) => ({
      ...rest,
      groups: groups.map((each) => ({ ...each, curve: [] })),
    });
    expect(bare(some)).toEqual(bare(all));
  }
  for (const { curve, past } of all.groups) expect(past).toEqual(PAST_MS.map((ms) => shareAt(curve, ms)));
});

test('a brief answer of growth is the whole one without what stands beside its rows', () => {
  const ofWeirs = new Study({ runs: [weirs] });
  const [brief, whole] = [true, false].map((brief) => askMeasure(ofWeirs, {}, 'growth', { brief }) as GrowthAnswer) as [
    GrowthAnswer,
    GrowthAnswer,
  ];
  expect(whole.types!.length).toBeGreaterThan(0);
  expect(whole.peak).not.toBeNull();
  expect(brief).toEqual({ ...whole, types: null, together: [], peak: null, usedPeak: null, run: null });
});
