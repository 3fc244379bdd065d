import { Session } from 'node:inspector';
import { OWN_PATH, type CallTree, type Sample, type SamplingNode } from './call-tree.ts';
import type { LineSink } from '../line-sink.ts';

interface Profile {
  readonly head: SamplingNode;
  readonly samples: readonly Sample[];
}

/**
 * Time between polls is at least this many times what a poll costs, so that they take at most 2 % of the program's
 * time.
 */
const COST_FACTOR = 50;
/**
 * What a poll costs is the median of the last few: one that met a busy machine must not blind the recorder for a
 * minute.
 */
const COSTS_KEPT = 3;

/**
 * Watches allocation through the inspector's sampling, in two kinds of phase. A births phase sees every sample, the
 * dead too, and tells bytes by path. A survivors phase polls for the samples still alive and so bounds births and
 * deaths; the gaps in the samples' ordinals count those that came and went unseen. Every poll forces a full collection.
 */
export class AllocationWatch {
  private readonly session = new Session();
  private readonly writer: LineSink;
  private readonly tree: CallTree;
  private readonly now: () => number;
  private readonly intervalBytes: number;
  private phase: 'births' | 'survivors' | 'off' = 'off';
  private phaseStartMs = 0;
  private alive = new Set<number>();
  private lastOrdinal = 0;
  private lastPollMs = 0;
  private nextPollMs = 0;
  private costsMs: readonly number[] = [];

  constructor(options: { writer: LineSink; tree: CallTree; now: () => number; intervalBytes: number }) {
    this.writer = options.writer;
    this.tree = options.tree;
    this.now = options.now;
    this.intervalBytes = options.intervalBytes;
    this.session.connect();
    this.session.post('HeapProfiler.enable');
  }

  /** True when the next poll of the survivors is due. */
  isDue(): boolean {
    return this.phase === 'survivors' && this.now() >= this.nextPollMs;
  }

  /** Milliseconds that the phase has lasted. */
  phaseAgeMs(): number {
    return this.now() - this.phaseStartMs;
  }

  isBirths(): boolean {
    return this.phase === 'births';
  }

  startBirths(): void {
    this.stop();
    this.begin('births', { includeObjectsCollectedByMajorGC: true, includeObjectsCollectedByMinorGC: true });
  }

  startSurvivors(pollMs: number): void {
    this.stop();
    this.begin('survivors', {});
    this.alive = new Set();
    this.lastOrdinal = 0;
    this.lastPollMs = this.phaseStartMs;
    this.nextPollMs = this.phaseStartMs + pollMs;
  }

  /** Reads the survivors once more. */
  poll(pollMs: number): void {
    const startMs = this.now();
    const before = process.cpuUsage();
    const profile = this.read('HeapProfiler.getSamplingProfile');
    const endMs = this.now();
    const { user, system } = process.cpuUsage(before);
    if (profile !== null) this.tellSurvivors(profile, startMs, endMs);
    // A machine that stood still meanwhile made the poll long, but not costly.
    this.costsMs = [...this.costsMs, Math.min(endMs - startMs, (user + system) / 1000)].slice(-COSTS_KEPT);
    this.nextPollMs = endMs + Math.max(pollMs, COST_FACTOR * lowerMedian(this.costsMs));
  }

  /** Ends the phase that runs and tells what it saw; of a program that ends, no deaths. */
  stop(programEnds = false): void {
    if (this.phase === 'off') return;
    const startMs = this.now();
    const profile = this.read('HeapProfiler.stopSampling');
    const endMs = this.now();
    if (profile !== null && this.phase === 'births') this.tellBirths(profile, startMs, endMs);
    if (profile !== null && this.phase === 'survivors') this.tellSurvivors(profile, startMs, endMs, programEnds);
    this.phase = 'off';
  }

  private begin(phase: 'births' | 'survivors', flags: object): void {
    this.session.post('HeapProfiler.startSampling', { samplingInterval: this.intervalBytes, ...flags });
    this.phase = phase;
    this.phaseStartMs = this.now();
    this.writer.add({ k: 'phase', t: this.phaseStartMs, kind: phase });
  }

  // In the same thread the answer comes before `post` returns.
  private read(method: 'HeapProfiler.getSamplingProfile' | 'HeapProfiler.stopSampling'): Profile | null {
    let profile: Profile | null = null;
    this.session.post(method, (error: Error | null, result?: object) => {
      if (error === null && result !== undefined) profile = (result as { profile: Profile }).profile;
    });
    return profile;
  }

  private tellBirths(profile: Profile, startMs: number, endMs: number): void {
    const pathOf = this.tree.number(profile.head);
    const bytes = new Map<number, { sum: number; squares: number }>();
    for (const sample of profile.samples) {
      const path = pathOf.get(sample.nodeId);
      if (path === undefined || path < 0) continue;
      const known = bytes.get(path) ?? { sum: 0, squares: 0 };
      known.sum += sample.size;
      known.squares += sample.size * sample.size;
      bytes.set(path, known);
    }
    const paths = [...bytes.keys()];
    const sums = [...bytes.values()];
    this.writer.add({
      k: 'flow',
      from: this.phaseStartMs,
      to: startMs,
      path: paths,
      bytes: sums.map(({ sum }) => sum),
      se: sums.map(({ squares }) => Math.sqrt(squares)),
    });
    this.writer.add({ k: 'poll', t: startMs, ms: endMs - startMs, taken: profile.samples.length });
  }

  private tellSurvivors(profile: Profile, startMs: number, endMs: number, programEnds = false): void {
    const pathOf = this.tree.number(profile.head);
    const alive = new Set<number>();
    const born: Sample[] = [];
    let highest = this.lastOrdinal;
    for (const sample of profile.samples) {
      const path = pathOf.get(sample.nodeId);
      if (sample.ordinal > highest) highest = sample.ordinal;
      if (path === undefined || path === OWN_PATH || path < 0) continue;
      alive.add(sample.ordinal);
      if (!this.alive.has(sample.ordinal)) born.push(sample);
    }
    const died = [...this.alive].filter((ordinal) => !alive.has(ordinal));
    if (died.length > 0 && !programEnds) this.writer.add({ k: 'died', from: this.lastPollMs, to: startMs, id: died });
    if (born.length > 0) {
      born.sort((a, b) => a.ordinal - b.ordinal);
      this.writer.add({
        k: 'born',
        from: this.lastPollMs,
        to: startMs,
        id: born.map((sample) => sample.ordinal),
        path: born.map((sample) => pathOf.get(sample.nodeId)!),
        size: born.map((sample) => sample.size),
      });
    }
    this.writer.add({ k: 'poll', t: startMs, ms: endMs - startMs, taken: highest - this.lastOrdinal });
    this.alive = alive;
    this.lastOrdinal = highest;
    // The program stands while it is read: nothing is born before the end, and what was alive is alive still.
    this.lastPollMs = endMs;
  }
}

function lowerMedian(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[(values.length - 1) >> 1] ?? 0;
}
