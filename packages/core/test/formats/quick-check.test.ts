import { z } from 'zod';
import { quickCheckOf } from '../../src/formats/stream/quick-check.ts';
import { seeded } from '../seeded.ts';

const whole = z.custom<number>((value) => value === 7);
const schema = z
  .object({
    k: z.literal('tide'),
    h: z.string().min(1).max(3),
    t: z.number().min(-5, 'expected more').max(5, 'expected less'),
    id: z.number().int().nonnegative(),
    every: z.number().positive().max(9).optional(),
    below: z.number().lt(3).optional(),
    part: z.number().multipleOf(0.5).optional(),
    kind: z.enum(['ebb', 'flow']),
    own: z.boolean().optional(),
    names: z.array(z.string().max(4)).max(2).optional(),
    pairs: z.array(z.tuple([z.string(), z.number()])).optional(),
    mail: z.email().optional(),
    seven: whole.optional(),
  })
  .refine(({ t, id }) => t <= id, 'expected no more than the id');
const GOOD = { k: 'tide', h: '1.0', t: 1, id: 2, kind: 'ebb' };
const ODD: readonly unknown[] = [
  ...[undefined, null, true, false, 0, -0, 1, 2.5, 3, 7, 9, 9.5, -5, -6, 5, 6, NaN, Infinity, 2 ** 53, 2 ** 60],
  ...[
    '',
    'a',
    'abc',
    'abcd',
    'tide',
    'ebb',
    'flow',
    'storm',
    'keeper@weir.example',
    [],
    {},
    ['a'],
    ['abcde'],
    ['a', 'b'],
  ],
  ...[['a', 'b', 'c'], [['a', 1]], [['a', 1, 2]], [['a']], [['a', 'b']], [1], new Date(0), new Float64Array(1)],
];

test('what is taken at once is what the schema takes, and what it leaves is for the schema to tell', () => {
  const check = quickCheckOf(schema, new Map([[whole, (value) => value === 7]]));
  const random = seeded(12);
  const pick = <T>(values: readonly T[]): T => values[Math.floor(random() * values.length)]!;
  const names = Object.keys(schema.shape);
  const seen = { taken: 0, refused: 0 };
  for (let round = 0; round < 20_000; round++) {
    const value = Object.fromEntries([
      ...Object.entries(GOOD),
      ...Array.from({ length: 1 + Math.floor(random() * 3) }, () => [pick(names), pick(ODD)] as const),
    ]);
    if (random() < 0.1) Reflect.deleteProperty(value, pick(names));
    const result = schema.safeParse(value);
    expect(`${check(value)} ${JSON.stringify(value)}`).toBe(`${result.success} ${JSON.stringify(value)}`);
    seen[result.success ? 'taken' : 'refused']++;
  }
  expect(seen.taken).toBeGreaterThan(500);
  expect(seen.refused).toBeGreaterThan(10_000);
  for (const value of [null, undefined, 5, 'tide', [], [GOOD]]) expect(check(value)).toBe(false);
});

test('a refinement that is more than a function of the object is never taken as met', () => {
  const check = quickCheckOf(
    z.object({ t: z.number() }).check((ctx) => {
      if (ctx.value.t > 3) ctx.issues.push({ code: 'custom', message: 'expected less', input: ctx.value });
    }),
    new Map(),
  );
  expect([check({ t: 1 }), check({ t: 4 })]).toEqual([false, false]);
});

test('the tighter of two bounds holds, and what a schema makes of a value is left to it', () => {
  const check = quickCheckOf(
    z.object({
      above: z.number().positive().nonnegative().gt(-3),
      name: z.string().default('weir'),
      low: z.string().toLowerCase().optional(),
    }),
    new Map(),
  );
  expect([check({ above: 0, name: 'a' }), check({ above: 1, name: 'a' })]).toEqual([false, true]);
  expect([
    check({ above: 1 }),
    check({ above: 1, name: 'a', low: 'A' }),
    check({ above: 1, name: 'a', low: 'a' }),
  ]).toEqual([...[false, false, true]]);
});
