import { floorSteps, stepPeriodMs } from '../../src/analysis/verdict/steps.ts';
import { seeded } from '../seeded.ts';

/** A floor of 40 points a second apart that rises by 400 KB every eight, with the noise of a runtime's caches. */
function staircase(): { tMs: Float64Array; bytes: Float64Array } {
  const random = seeded(7);
  const tMs = Float64Array.from({ length: 40 }, (_, at) => at * 1000);
  return { tMs, bytes: tMs.map((_, at) => 8e6 + Math.floor(at / 8) * 4e5 + random() * 2000) };
}

test('a floor point that stands out alone is no step and leaves the period as it is', () => {
  const { tMs, bytes } = staircase();
  const plain = floorSteps(tMs, bytes, 0);
  bytes[11]! += 390_000;
  const spiked = floorSteps(tMs, bytes, 0);
  expect(plain.steps.map((step) => step.tMs)).toEqual([8000, 16_000, 24_000, 32_000]);
  expect(spiked.steps.map((step) => step.tMs)).toEqual([8000, 16_000, 24_000, 32_000]);
  expect([stepPeriodMs(plain.steps), stepPeriodMs(spiked.steps)]).toEqual([8000, 8000]);
});

test('a step that is taken back later is one up and one down', () => {
  const { tMs, bytes } = staircase();
  for (let at = 10; at < 14; at++) bytes[at]! += 390_000;
  expect(floorSteps(tMs, bytes, 0).steps.filter((step) => step.bytes < 0)).toHaveLength(1);
});
