import { performance } from 'node:perf_hooks';
import { getHeapStatistics, setFlagsFromString, writeHeapSnapshot } from 'node:v8';
import { isMainThread, threadId } from 'node:worker_threads';
import {
  containerLimit,
  heapLimitBytes,
  heapName,
  ownRules,
  programName,
  STREAM_SCHEMA_NAME,
} from '../heap-identity.ts';
import { RecorderBase } from '../recorder-base.ts';
import type { RecorderSettings } from '../settings.ts';
import { SourceExcerpts } from '../source-excerpts.ts';
import { SourcePlaces, type SourcePlace } from '../source-places.ts';
import { AllocationWatch } from './allocation-watch.ts';
import { CallTree } from './call-tree.ts';
import { CollectionWatch } from './collection-watch.ts';
import { LineWriter } from './line-writer.ts';

const STARTUP_MS = 1000;
/**
 * An event loop that did not run for this long was blind meanwhile: what the runtime tells of collections comes through
 * it.
 */
const SILENT_MS = 2000;
const NOTES: readonly (readonly [string, string])[] = [
  [
    'not-seen',
    'Stores of Buffers and ArrayBuffers and external strings lie outside the heap: only their total is seen, as external size.',
  ],
  ['frames', 'A frame is a function with the place where it begins, not the allocating line.'],
  [
    'polls',
    "Every poll forces a full collection. These are marked as the recorder's own and left out of the program's pauses.",
  ],
];
const INLINING_NOTE =
  'Optimised code may book what a small function allocates under its caller. --exact switches that off; it may halve the speed of code that churns.';

/**
 * Records one isolate through the runtime's inspector, where the addon cannot be used: it sees less, and says so.
 * Survivors are seen singly; what dies between two polls is worked out from a stretch in which every birth was seen.
 */
export class InspectorRecorder extends RecorderBase {
  private readonly allocation: AllocationWatch;
  private readonly collections: CollectionWatch;
  private readonly originMs: number;
  private ticks = 0;
  private starting = true;
  private lastTickMs = 0;
  private birthsRefused = false;

  /** `why` the addon is not used. @throws when the recording's file cannot be opened. */
  constructor(settings: RecorderSettings, ownDirectory: string, why: string) {
    const writer = new LineWriter(settings.out, `${process.pid}.${threadId}`);
    super(settings, writer);
    this.originMs = performance.now();
    this.hello(why);
    const now = (): number => this.now();
    // V8 hangs a sample on the first object of a folded group: a survivor behind a temporary would never be seen.
    setFlagsFromString('--no-turbo-allocation-folding');
    if (settings.exact) setFlagsFromString('--no-turbo-inlining');
    const places = new SourcePlaces();
    const excerpts = new SourceExcerpts(this.lines, places.carried);
    const tree = new CallTree({
      writer: this.lines,
      isOwn: (url) => url.startsWith(ownDirectory),
      placeOf: (url, line, column) => this.placeIn(places, url, line, column),
      onFrame: (url, line) => {
        if (settings.source) excerpts.tell(url, line);
      },
    });
    this.collections = new CollectionWatch(this.lines, this.originMs, now);
    this.allocation = new AllocationWatch({ writer: this.lines, tree, now, intervalBytes: settings.intervalBytes });
  }

  protected now(): number {
    return performance.now() - this.originMs;
  }

  protected onStart(): void {
    this.lastTickMs = this.now();
    this.allocation.startBirths();
  }

  protected onTick(): void {
    this.ticks++;
    this.tellSilence();
    if (this.allocation.isBirths()) this.endBirthsInTime();
    else if (this.settings.floorEveryMs > 0 && this.allocation.isDue())
      this.own(() => this.allocation.poll(this.settings.floorEveryMs));
    this.tellSizes();
    if (this.ticks % 2 === 0) this.collections.collect();
    this.lines.flush();
  }

  protected collectNow(): void {
    if (!this.allocation.isBirths()) this.own(() => this.allocation.poll(this.settings.floorEveryMs));
  }

  protected writeSnapshot(file: string): string {
    try {
      this.own(() => writeHeapSnapshot(file));
      return '';
    } catch (error) {
      return String(error);
    }
  }

  // A births phase begins the runtime's sampling anew, which would lose sight of all that is followed.
  protected watchBirths(on: boolean): void {
    if ((on && this.allocation.isBirths()) || this.birthsRefused) return;
    this.birthsRefused = true;
    this.note(
      'births-refused',
      'Births are not switched: without the addon that would lose sight of the objects that are followed. Start over instead, which watches births anew.',
    );
  }

  protected startOver(): void {
    this.own(() => this.allocation.startBirths());
  }

  protected onFinish(reason: string): void {
    this.tellSilence();
    this.tellSizes();
    // What dies from here on dies because the program ends, which says nothing about it.
    const endMs = this.now();
    this.own(() => this.allocation.stop(true));
    this.collections.finish(endMs);
    this.lines.add({ k: 'bye', t: this.now(), reason });
    (this.lines as LineWriter).close();
  }

  // While the event loop stood still collections were not told, and none must be taken for none.
  private tellSilence(): void {
    const now = this.now();
    if (now - this.lastTickMs > SILENT_MS) this.lines.add({ k: 'silence', from: this.lastTickMs, to: now });
    this.lastTickMs = now;
  }

  // That places are those of the sources is said once, when the first is.
  private placeIn(places: SourcePlaces, url: string, line: number, column: number): SourcePlace {
    const before = places.hasMapped;
    const place = places.of(url, line, column);
    if (places.hasMapped && !before)
      this.note('source-maps', 'Places are those of the sources that source maps name, not of the files that ran.');
    return place;
  }

  private hello(why: string): void {
    const { settings } = this;
    const own = ownRules(process.argv[1]);
    this.lines.add({
      k: 'hello',
      schema: STREAM_SCHEMA_NAME,
      epochMs: performance.timeOrigin + this.originMs,
      program: programName(settings),
      ...(settings.name === '' ? {} : { named: true }),
      runtime: `Node.js ${process.version}`,
      collector: 'V8',
      heapName: heapName(),
      pid: process.pid,
      interval: settings.intervalBytes,
      limit: heapLimitBytes(),
      ...containerLimit(),
      births: 'some',
      ...(settings.exact ? {} : { inlined: true }),
      ...(own.length === 0 ? {} : { own }),
    });
    this.note(
      'without-addon',
      `Recorded through the inspector, without the addon (${why}): short-lived allocation is inferred, not seen, and collections are not told while the event loop stands still.`,
      0,
    );
    if (!settings.exact) this.note('inlining', INLINING_NOTE, 0);
    for (const [code, message] of NOTES) this.note(code, message, 0);
    this.lines.flush();
  }

  // What a program allocates while it starts says little about what it does later: that is a births phase of its own.
  private endBirthsInTime(): void {
    const ageMs = this.allocation.phaseAgeMs();
    if (this.starting && ageMs >= STARTUP_MS) {
      this.starting = false;
      this.own(() => this.allocation.startBirths());
    } else if (!this.starting && ageMs >= this.settings.birthsMs)
      this.own(() => this.allocation.startSurvivors(this.settings.floorEveryMs));
  }

  private own(work: () => void): void {
    const fromMs = this.now();
    work();
    this.collections.markOwn(fromMs, this.now());
  }

  private tellSizes(): void {
    const heap = getHeapStatistics();
    this.lines.add({
      k: 'size',
      t: this.now(),
      used: heap.used_heap_size,
      committed: heap.total_heap_size,
      external: heap.external_memory,
      ...(isMainThread ? { resident: process.memoryUsage.rss() } : {}),
    });
  }
}
