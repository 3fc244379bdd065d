import { subscribe, unsubscribe } from 'node:diagnostics_channel';
import { performance } from 'node:perf_hooks';
import { getHeapStatistics, setFlagsFromString } from 'node:v8';
import { isMainThread, threadId } from 'node:worker_threads';
import type { STREAM_SCHEMA } from '@brisk-heron/core';
import { AllocationWatch } from './allocation-watch.ts';
import { CallTree } from './call-tree.ts';
import { CollectionWatch } from './collection-watch.ts';
import { ControlFile, type Command } from './control-file.ts';
import { LineWriter } from './line-writer.ts';
import { MARK_CHANNEL } from './mark-channel.ts';
import type { RecorderSettings } from './settings.ts';
import { SourceExcerpts } from './source-excerpts.ts';
import { SourcePlaces, type SourcePlace } from './source-places.ts';

const SCHEMA: typeof STREAM_SCHEMA = 'brisk-heron/stream@1';
const TICK_MS = 250;
const STARTUP_MS = 1000;
/** A mark that is older than this when it arrives was not on its way all the time: the clocks differ. */
const MOST_LATE_MS = 60_000;
const NOTES: readonly (readonly [string, string])[] = [
  ['not-seen', 'Stores of Buffers and ArrayBuffers and external strings lie outside the heap: only their total is seen, as external size.'],
  ['frames', 'A frame is a function with the place where it begins, not the allocating line.'],
  ['polls', 'Every poll forces a full collection. These are marked as the recorder\'s own and left out of the program\'s pauses.'],
];

const INLINING_NOTE = 'Optimised code may book what a small function allocates under its caller. --exact switches that off; it may halve the speed of code that churns.';

/** Records one isolate: the main thread of a process, or one worker. */
export class Recorder {
  private readonly settings: RecorderSettings;
  private readonly writer: LineWriter;
  private readonly allocation: AllocationWatch;
  private readonly collections: CollectionWatch;
  private readonly control: ControlFile;
  private readonly originMs = performance.now();
  private timer: NodeJS.Timeout | null = null;
  private ticks = 0;
  private starting = true;
  private ended = false;

  constructor(settings: RecorderSettings, ownDirectory: string) {
    this.settings = settings;
    this.writer = new LineWriter(settings.out, `${process.pid}.${threadId}`);
    this.hello();
    const now = (): number => this.now();
    if (settings.exact) {
      setFlagsFromString('--no-turbo-inlining');
      setFlagsFromString('--no-turbo-allocation-folding');
    }
    const places = new SourcePlaces();
    const excerpts = new SourceExcerpts(this.writer, places.carried);
    const tree = new CallTree({
      writer: this.writer,
      isOwn: (url) => url.startsWith(ownDirectory),
      placeOf: (url, line, column) => this.placeIn(places, url, line, column),
      onFrame: (url, line) => { if (settings.source) excerpts.tell(url, line); },
    });
    this.collections = new CollectionWatch(this.writer, this.originMs, now);
    this.allocation = new AllocationWatch({ writer: this.writer, tree, now, intervalBytes: settings.intervalBytes });
    this.control = new ControlFile(settings.control);
  }

  start(): void {
    this.guard(() => this.allocation.startBirths());
    this.timer = setInterval(() => this.guard(() => this.tick()), TICK_MS);
    this.timer.unref();
    subscribe(MARK_CHANNEL, this.onMark);
  }

  /** Reads the survivors a last time, writes everything and ends. Safe to call twice. */
  finish(reason: string): void {
    if (this.ended) return;
    this.ended = true;
    if (this.timer !== null) clearInterval(this.timer);
    unsubscribe(MARK_CHANNEL, this.onMark);
    this.guard(() => {
      this.tellSizes();
      // What dies from here on dies because the program ends, which says nothing about it.
      const endMs = this.now();
      this.own(() => this.allocation.stop(true));
      this.collections.finish(endMs);
      this.writer.add({ k: 'bye', t: this.now(), reason });
    });
    this.guard(() => this.writer.close());
  }

  // That places are those of the sources is said once, when the first is.
  private placeIn(places: SourcePlaces, url: string, line: number, column: number): SourcePlace {
    const before = places.hasMapped;
    const place = places.of(url, line, column);
    if (places.hasMapped && !before) this.writer.add({ k: 'note', t: this.now(), code: 'source-maps', message: 'Places are those of the sources that source maps name, not of the files that ran.' });
    return place;
  }

  private now(): number {
    return performance.now() - this.originMs;
  }

  private hello(): void {
    this.writer.add({
      k: 'hello', schema: SCHEMA, epochMs: performance.timeOrigin + this.originMs, program: this.settings.program,
      runtime: `Node.js ${process.version}`, collector: 'V8', heapName: isMainThread ? `main ${process.pid}` : `worker ${process.pid}.${threadId}`,
      pid: process.pid, interval: this.settings.intervalBytes, limit: limitBytes(),
    });
    if (!this.settings.exact) this.writer.add({ k: 'note', t: 0, code: 'inlining', message: INLINING_NOTE });
    for (const [code, message] of NOTES) this.writer.add({ k: 'note', t: 0, code, message });
    this.writer.flush();
  }

  private tick(): void {
    this.ticks++;
    for (const command of this.control.take()) this.obey(command);
    if (this.allocation.isBirths()) this.endBirthsInTime();
    else if (this.allocation.isDue()) this.own(() => this.allocation.poll(this.settings.pollMs));
    this.tellSizes();
    if (this.ticks % 2 === 0) this.collections.collect();
    this.writer.flush();
  }

  // What a program allocates while it starts says little about what it does later: that is a births phase of its own.
  private endBirthsInTime(): void {
    const ageMs = this.allocation.phaseAgeMs();
    if (this.starting && ageMs >= STARTUP_MS) {
      this.starting = false;
      this.own(() => this.allocation.startBirths());
    } else if (!this.starting && ageMs >= this.settings.birthsMs) this.own(() => this.allocation.startSurvivors(this.settings.pollMs));
  }

  private obey(command: Command): void {
    switch (command.do) {
      case 'mark': this.mark(command.label, 'page', command.epochMs); break;
      case 'births': this.own(() => this.allocation.startBirths()); break;
      case 'collect': this.collectNow(); break;
    }
  }

  private readonly onMark = (message: unknown): void => this.guard(() => this.mark(String(message).slice(0, 200), 'program'));

  private mark(label: string, by: 'program' | 'page', epochMs = NaN): void {
    const lateMs = Date.now() - epochMs;
    this.writer.add({ k: 'mark', t: Math.max(0, this.now() - (lateMs > 0 && lateMs <= MOST_LATE_MS ? lateMs : 0)), label, by });
    if (this.settings.collectAtMarks) this.collectNow();
  }

  private collectNow(): void {
    if (!this.allocation.isBirths()) this.own(() => this.allocation.poll(this.settings.pollMs));
  }

  private own(work: () => void): void {
    const fromMs = this.now();
    work();
    this.collections.markOwn(fromMs, this.now());
  }

  private tellSizes(): void {
    const heap = getHeapStatistics();
    this.writer.add({
      k: 'size', t: this.now(), used: heap.used_heap_size, committed: heap.total_heap_size,
      external: heap.external_memory, ...(isMainThread ? { resident: process.memoryUsage.rss() } : {}),
    });
  }

  // Whatever goes wrong in here must not reach the recorded program.
  private guard(work: () => void): void {
    try {
      work();
    } catch (error) {
      try {
        this.writer.add({ k: 'note', t: this.now(), code: 'recorder-failed', message: String(error).slice(0, 500) });
      } catch {
        this.ended = true;
      }
    }
  }
}

// What the heap may grow to: its own limit, or the container's where that is lower and ends the process first.
function limitBytes(): number {
  const container = process.constrainedMemory?.() ?? 0;
  const heap = getHeapStatistics().heap_size_limit;
  return container > 0 ? Math.min(heap, container) : heap;
}
