import { kaplanMeier, medianClass } from '../../src/stats/kaplan-meier.ts';
import { seeded } from '../seeded.ts';

test('the remission times of 6-MP patients survive as published', () => {
  // Freireich et al. (1963), as tabulated by Kalbfleisch & Prentice, "The Statistical Analysis of Failure Time Data":
  // weeks in remission.
  const died = new Float64Array(40);
  const left = new Float64Array(40);
  for (const week of [6, 6, 6, 7, 10, 13, 16, 22, 23]) died[week]!++;
  for (const week of [6, 9, 10, 11, 17, 19, 20, 25, 32, 32, 34, 35]) left[week]!++;
  const survival = kaplanMeier(died, left);
  for (const [week, expected] of [
    [6, 0.857],
    [7, 0.807],
    [10, 0.753],
    [13, 0.69],
    [16, 0.627],
    [22, 0.538],
    [23, 0.448],
  ] as const)
    expect(survival[week]).toBeCloseTo(expected, 3);
  expect(medianClass(survival)).toBe(23);
});

test('with nothing left out of sight it is the share that still lives', () => {
  const random = seeded(4);
  const died = Float64Array.from({ length: 60 }, () => Math.floor(random() * 5));
  const all = died.reduce((sum, each) => sum + each, 0);
  let gone = 0;
  kaplanMeier(died, new Float64Array(60)).forEach((share, age) => {
    gone += died[age]!;
    expect(share).toBeCloseTo(1 - gone / all, 9);
  });
});

test('weights that are all larger by a factor change nothing', () => {
  const random = seeded(5);
  const died = Float64Array.from({ length: 30 }, () => random());
  const left = Float64Array.from({ length: 30 }, () => random());
  const scaled = kaplanMeier(
    died.map((each) => each * 1000),
    left.map((each) => each * 1000),
  );
  kaplanMeier(died, left).forEach((share, age) => {
    expect(scaled[age]).toBeCloseTo(share, 9);
  });
});

test.each([
  [[], []],
  [
    [0, 0],
    [0, 0],
  ],
  [
    [0, 0],
    [3, 4],
  ],
])('of %j dead and %j out of sight no half is dead', (died, left) => {
  const survival = kaplanMeier(Float64Array.from(died), Float64Array.from(left));
  expect([...survival].every((share) => share === 1)).toBe(true);
  expect(medianClass(survival)).toBe(-1);
});

test('one that dies at once leaves none', () => {
  expect([...kaplanMeier(Float64Array.of(1), Float64Array.of(0))]).toEqual([0]);
});
