import { survivalOf } from '../src/analysis/survival/curves.ts';
import { CLASSES } from '../src/analysis/median-lifetimes.ts';
import { livesByGroup } from '../src/analysis/survival/life-tables.ts';
import { classOfAge, type Lives, livesOf } from '../src/analysis/survival/lives.ts';
import { survivalCurve } from '../src/stats/survival-curve.ts';
import type { GroupSurvival } from '../src/analysis/survival/curves.ts';
import type { Span } from '../src/base/span.ts';
import { inclusionProbability } from '../src/stats/horvitz-thompson.ts';
import { addObject, recordingOf } from './build-recording.ts';
import { seeded } from './seeded.ts';

/** A heap whose every lifetime is known, sampled as a recorder samples it. */
export interface SimulatedHeap {
  readonly objects: number;
  readonly durationMs: number;
  readonly intervalBytes: number;
  /** Lifetime of an object in milliseconds, from a random number of (0, 1) and its size. */
  readonly lifetime: (random: () => number) => number;
  readonly size: (random: () => number) => number;
  readonly span: Span | null;
}

/** The estimate of one run, and the true share of bytes older than an age. */
export interface SimulatedRun {
  readonly told: GroupSurvival;
  readonly truth: (ageMs: number) => number;
}

/** One seeded run: what the sampled objects tell, and what all of them do. */
export function simulate(heap: SimulatedHeap, seed: number): SimulatedRun {
  const random = seeded(seed);
  const { objects, durationMs, intervalBytes } = heap;
  const span = heap.span ?? { fromMs: 0, toMs: durationMs };
  const sampled = recordingOf([], durationMs);
  const whole = recordingOf([], durationMs);
  for (let n = 0; n < objects; n++) {
    const bornMs = (n / objects) * durationMs;
    const bytes = Math.round(heap.size(random));
    const diedMs = bornMs + heap.lifetime(random);
    const object = { bornMs, bytes, site: 'tide', ...(diedMs < durationMs ? { diedMs } : {}) };
    addObject(whole, object);
    const probability = inclusionProbability(bytes, intervalBytes);
    if (random() < probability) addObject(sampled, { ...object, probability });
  }
  const livesIn = (recording: ReturnType<typeof recordingOf>): Lives =>
    livesOf(recording, { span, kind: 'seconds', by: 'bytes', chosen: null, flows: [] });
  const origins = new Int32Array(sampled.tables.origins.length);
  const exact = exactSurvival(livesIn(whole));
  return {
    told: survivalOf(livesByGroup(livesIn(sampled), 1, origins), 'seconds').whole,
    // A point tells of the class that ends at its age.
    truth: (ageMs) => exact[classOfAge('seconds', ageMs) - 1] ?? 1,
  };
}

function exactSurvival(lives: Lives): Float64Array {
  const table = {
    entered: new Float64Array(CLASSES),
    died: new Float64Array(CLASSES),
    left: new Float64Array(CLASSES),
  };
  for (let row = 0; row < lives.length; row++) {
    table.entered[lives.entry[row]!]! += lives.weight[row]!;
    (lives.dead[row] === 1 ? table.died : table.left)[lives.middle[row]!]! += lives.weight[row]!;
  }
  return survivalCurve(table).survival;
}

/** Heaps that the bands are tried on. */
export const HEAPS: readonly (readonly [string, SimulatedHeap])[] = [
  [
    'exponential lifetimes, small objects',
    {
      objects: 6000,
      durationMs: 60_000,
      intervalBytes: 4096,
      lifetime: (random) => -4000 * Math.log(1 - random()),
      size: (random) => 16 + 240 * random(),
      span: null,
    },
  ],
  [
    'most die young and some live on, sizes over three decades',
    {
      objects: 6000,
      durationMs: 60_000,
      intervalBytes: 65_536,
      lifetime: (random) => (random() < 0.8 ? -300 * Math.log(1 - random()) : 5000 + 60_000 * random()),
      size: (random) => 64 * 10 ** (3 * random()),
      span: null,
    },
  ],
  [
    'a span in the middle: born before it, and cut off at its end',
    {
      objects: 6000,
      durationMs: 60_000,
      intervalBytes: 8192,
      lifetime: (random) => -9000 * Math.log(1 - random()),
      size: (random) => 32 + 480 * random(),
      span: { fromMs: 25_000, toMs: 45_000 },
    },
  ],
];

/** Ages at which a curve is held against the truth. */
export const TRIED_MS = [200, 1000, 3000, 8000, 15_000] as const;

/** How often the band of an age held the truth, over seeded runs: hits and trials, by age. */
export function coverage(
  heap: SimulatedHeap,
  runs: number,
): readonly { readonly ageMs: number; hits: number; trials: number }[] {
  const cells = TRIED_MS.map((ageMs) => ({ ageMs, hits: 0, trials: 0 }));
  for (let seed = 1; seed <= runs; seed++) {
    const { told, truth } = simulate(heap, seed);
    for (const cell of cells) {
      const point = told.curve.findLast(({ age }) => age <= cell.ageMs);
      if (point === undefined || point.atRisk < 10) continue;
      const exact = truth(point.age);
      cell.trials++;
      if (exact >= point.low - 1e-9 && exact <= point.high + 1e-9) cell.hits++;
    }
  }
  return cells;
}
