import { compareKeys, type Compared, type KeyChange } from '../src/analysis/comparison/compare-keys.ts';
import { NameRules } from '../src/analysis/comparison/name-rules.ts';
import { ObjectIndex } from '../src/analysis/object-index.ts';
import { spanSums } from '../src/analysis/span-sums.ts';
import { chargeTable } from '../src/analysis/charge-table.ts';
import { chargeText } from '../src/model/charge.ts';
import type { Recording } from '../src/model/recording.ts';
import { inclusionProbability } from '../src/stats/horvitz-thompson.ts';
import { addObject, followObjects, recordingOf } from './build-recording.ts';
import { seeded } from './seeded.ts';

/** A site of a simulated program: what it allocates a second, and which share of it stays. */
export interface SimulatedSite {
  readonly name: string;
  readonly perSecond: number;
  readonly bytes: number;
  readonly staysRatio: number;
}

const SECONDS = 40;
const SPAN = { fromMs: 0, toMs: SECONDS * 1000 };
const KIB = 1024;

/** Sites of very different sizes and rates; each is sampled often enough that its error is about normal. */
export const SITES: readonly SimulatedSite[] = Array.from({ length: 12 }, (_, at) => ({
  name: `site${at}`,
  perSecond: 8 + (at % 5) * 10,
  bytes: 256 * 2 ** (at % 6),
  staysRatio: at % 4 === 0 ? 0.2 : 0,
}));

/** What a site truly did in one run. */
interface Truth {
  allocBytes: number;
  staysBytes: number;
}

/** One side: its sampled recording and what truly happened. The same seed of the program does the same work. */
function run(sites: readonly SimulatedSite[], programSeed: number, samplingSeed: number) {
  const [program, sampling] = [seeded(programSeed), seeded(samplingSeed)];
  const collections = Array.from({ length: SECONDS }, (_, at) => ({
    startMs: at * 1000 + 990,
    ms: 1,
    before: 0,
    after: 0,
  }));
  const truth = new Map<string, Truth>();
  const objects: { bornMs: number; diedMs?: number; bytes: number; site: string }[] = [];
  for (const { name, perSecond, bytes, staysRatio } of sites) {
    const sum = { allocBytes: 0, staysBytes: 0 };
    for (let n = 0; n < perSecond * SECONDS; n++) {
      const bornMs = ((n + program()) / perSecond) * 1000;
      const stays = program() < staysRatio;
      if (bornMs >= SPAN.toMs) continue;
      sum.allocBytes += bytes;
      if (stays) sum.staysBytes += bytes;
      objects.push({
        bornMs,
        bytes,
        site: name,
        ...(stays ? {} : { diedMs: Math.floor(bornMs / 1000) * 1000 + 991 + 1000 }),
      });
    }
    truth.set(name, sum);
  }
  const recording = recordingOf(collections, SPAN.toMs);
  followObjects(recording);
  for (const object of objects.sort((x, y) => x.bornMs - y.bornMs)) {
    const probability = inclusionProbability(object.bytes, 4 * KIB);
    if (sampling() < probability)
      addObject(recording, {
        ...object,
        probability,
        ...(object.diedMs !== undefined && object.diedMs < SPAN.toMs ? {} : { diedMs: undefined }),
      } as typeof object);
  }
  recording.reach(SPAN.toMs);
  return { recording, truth };
}

function keysOf(recording: Recording) {
  const table = chargeTable(recording, spanSums(new ObjectIndex(recording), SPAN, 2000), 'ownFrame');
  return { recording, table, seenMs: SPAN.toMs, span: SPAN };
}

/** A pair of sides compared, and what truly differs by site. */
export interface SimulatedPair {
  readonly changes: readonly KeyChange[];
  readonly nameOf: (change: KeyChange) => string;
  readonly truth: (name: string) => number;
}

/** Compares the same program with itself, or with other sites, each sampled on its own. */
export function simulatePair(of: Compared, seed: number, sitesB: readonly SimulatedSite[] = SITES): SimulatedPair {
  const [a, b] = [run(SITES, seed, 2 * seed + 1e6), run(sitesB, seed, 2 * seed + 1e6 + 1)];
  const member = of === 'allocated' ? 'allocBytes' : 'staysBytes';
  const by = of === 'kept' ? 1 : SECONDS;
  return {
    changes: compareKeys(keysOf(a.recording), keysOf(b.recording), 'ownFrame', { of, rules: new NameRules() }),
    nameOf: (change) =>
      change.b === null
        ? chargeText(a.recording, 'ownFrame', change.a!.key)
        : chargeText(b.recording, 'ownFrame', change.b.key),
    truth: (name) => {
      const site = name.split(' ')[0]!;
      return ((b.truth.get(site)?.[member] ?? 0) - (a.truth.get(site)?.[member] ?? 0)) / by;
    },
  };
}
