import { constants, PerformanceObserver, type PerformanceEntry } from 'node:perf_hooks';
import { GCProfiler } from 'node:v8';
import type { LineSink } from '../line-sink.ts';

interface GcEntry {
  readonly startMs: number;
  readonly ms: number;
  readonly kind: number;
  readonly flags: number;
}

interface GcSizes {
  readonly gcType: string;
  readonly ms: number;
  readonly before: number;
  readonly after: number;
  readonly capacity: number;
  readonly spaces: [string, number, number][];
}

/** Part of the profiler's answer that is read. */
interface ProfilerAnswer {
  readonly statistics: readonly {
    readonly gcType: string;
    readonly cost: number;
    readonly beforeGC: HeapPicture;
    readonly afterGC: HeapPicture;
  }[];
}

interface HeapPicture {
  readonly heapStatistics: { readonly usedHeapSize: number; readonly totalHeapSize: number };
  readonly heapSpaceStatistics: readonly { readonly spaceName: string; readonly spaceUsedSize: number }[];
}

const KIND_NAMES: Readonly<Record<number, string>> = {
  [constants.NODE_PERFORMANCE_GC_MINOR]: 'Scavenge',
  [constants.NODE_PERFORMANCE_GC_MAJOR]: 'MarkSweepCompact',
  [constants.NODE_PERFORMANCE_GC_INCREMENTAL]: 'IncrementalMarking',
  [constants.NODE_PERFORMANCE_GC_WEAKCB]: 'ProcessWeakCallbacks',
};

/** Entries wait at most this long for their sizes before they are told without. */
const WAIT_MS = 3000;

/**
 * Tells every collection with its pause and sizes. The performance observer knows times but no sizes, the runtime's GC
 * profiler sizes but no times: the two are matched in order by kind.
 */
export class CollectionWatch {
  private readonly writer: LineSink;
  private readonly now: () => number;
  private readonly originMs: number;
  private readonly observer: PerformanceObserver;
  private profiler: GCProfiler | null = null;
  private entries: GcEntry[] = [];
  private sizes: GcSizes[] = [];
  private readonly ownIntervals: { fromMs: number; toMs: number }[] = [];

  constructor(writer: LineSink, originMs: number, now: () => number) {
    this.writer = writer;
    this.now = now;
    this.originMs = originMs;
    this.observer = new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) this.entries.push(toGcEntry(entry, originMs));
    });
    this.observer.observe({ entryTypes: ['gc'] });
    this.restartProfiler();
  }

  /** Collections that start in this interval were forced by the recorder. */
  markOwn(fromMs: number, toMs: number): void {
    this.ownIntervals.push({ fromMs, toMs });
    if (this.ownIntervals.length > 64) this.ownIntervals.shift();
  }

  /** Matches what came and tells it. */
  collect(): void {
    this.restartProfiler();
    this.tell(this.now() - WAIT_MS);
  }

  /** Tells what is left of the time before `endMs`, with sizes or without. */
  finish(endMs: number): void {
    for (const entry of this.observer.takeRecords()) this.entries.push(toGcEntry(entry, this.originMs));
    this.observer.disconnect();
    this.restartProfiler();
    this.profiler?.stop();
    this.profiler = null;
    this.entries = this.entries.filter((entry) => entry.startMs < endMs);
    this.tell(Infinity);
  }

  private restartProfiler(): void {
    const answer = this.profiler?.stop() as unknown as ProfilerAnswer | undefined;
    this.profiler = new GCProfiler();
    this.profiler.start();
    for (const entry of answer?.statistics ?? []) {
      this.sizes.push({
        gcType: entry.gcType,
        ms: entry.cost / 1000,
        before: entry.beforeGC.heapStatistics.usedHeapSize,
        after: entry.afterGC.heapStatistics.usedHeapSize,
        capacity: entry.afterGC.heapStatistics.totalHeapSize,
        spaces: spacesOf(entry.beforeGC, entry.afterGC),
      });
    }
  }

  private tell(giveUpBeforeMs: number): void {
    const left: GcEntry[] = [];
    for (const entry of this.entries) {
      const match = this.takeSizes(entry);
      if (match === null && entry.startMs > giveUpBeforeMs) left.push(entry);
      else this.tellOne(entry, match);
    }
    this.entries = left;
    // Sizes whose entry never came would shift the order of all later ones.
    if (this.sizes.length > 256) this.sizes.splice(0, this.sizes.length - 256);
  }

  // The two clocks bracket the same work but not the same instants: near durations of one kind are the same collection.
  private takeSizes(entry: GcEntry): GcSizes | null {
    const kind = KIND_NAMES[entry.kind] ?? '';
    const at = this.sizes.findIndex(
      (sizes) => sizes.gcType === kind && Math.abs(sizes.ms - entry.ms) < 0.5 + 0.3 * entry.ms,
    );
    if (at < 0) return null;
    const [match] = this.sizes.splice(at, 1);
    return match ?? null;
  }

  private tellOne(entry: GcEntry, sizes: GcSizes | null): void {
    const own = this.ownIntervals.some(({ fromMs, toMs }) => entry.startMs >= fromMs && entry.startMs <= toMs);
    const base = { t: entry.startMs, ms: entry.ms, ...(own ? { own } : {}) };
    if (entry.kind !== constants.NODE_PERFORMANCE_GC_MINOR && entry.kind !== constants.NODE_PERFORMANCE_GC_MAJOR) {
      const label = entry.kind === constants.NODE_PERFORMANCE_GC_WEAKCB ? 'weak callbacks' : 'start of marking';
      this.writer.add({ k: 'pause', ...base, scope: 'whole', label });
      return;
    }
    const minor = entry.kind === constants.NODE_PERFORMANCE_GC_MINOR;
    const explicit = !own && (entry.flags & constants.NODE_PERFORMANCE_GC_FLAGS_FORCED) !== 0;
    this.writer.add({
      k: 'gc',
      ...base,
      scope: minor ? 'young' : 'whole',
      label: minor ? 'Scavenge' : 'Mark-Compact',
      ...(explicit ? { explicit } : {}),
      ...(sizes === null
        ? {}
        : { before: sizes.before, after: sizes.after, capacity: sizes.capacity, spaces: sizes.spaces }),
    });
  }
}

function toGcEntry(entry: PerformanceEntry, originMs: number): GcEntry {
  const detail = (entry as PerformanceEntry & { detail?: { kind?: number; flags?: number } }).detail;
  return {
    startMs: entry.startTime - originMs,
    ms: entry.duration,
    kind: detail?.kind ?? 0,
    flags: detail?.flags ?? 0,
  };
}

function spacesOf(before: HeapPicture, after: HeapPicture): [string, number, number][] {
  const spaces: [string, number, number][] = [];
  for (let i = 0; i < before.heapSpaceStatistics.length; i++) {
    const was = before.heapSpaceStatistics[i]!;
    const is = after.heapSpaceStatistics[i];
    if (is !== undefined && was.spaceUsedSize + is.spaceUsedSize > 0)
      spaces.push([was.spaceName, was.spaceUsedSize, is.spaceUsedSize]);
  }
  return spaces;
}
