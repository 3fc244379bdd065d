import { subscribe, unsubscribe } from 'node:diagnostics_channel';
import { getHeapStatistics, setFlagsFromString } from 'node:v8';
import { isMainThread, threadId } from 'node:worker_threads';
import {
  containerLimit,
  heapLimitBytes,
  heapName,
  ownRules,
  programName,
  STREAM_SCHEMA_NAME,
  unnamedWorker,
} from '../heap-identity.ts';
import { RecorderBase } from '../recorder-base.ts';
import type { RecorderSettings } from '../settings.ts';
import { SourceExcerpts } from '../source-excerpts.ts';
import { SourcePlaces } from '../source-places.ts';
import { AddonLines, type Addon } from './addon.ts';
import { StoreWatch } from './store-watch.ts';

/** Node's own channel, which tells of every worker that is made. */
const WORKER_CHANNEL = 'worker_threads';
/** A worker that is recorded says so within this time, also on a busy machine. */
const WORKER_SPEAKS_MS = 2000;
/** Share of the thread's processor time that reading samples may take. */
const READ_SHARE = 0.02;
/** Stores outside the heap are larger than objects and reading the stack costs more than counting bytes. */
const STORE_INTERVAL_RATIO = 4;
const NOTES: readonly (readonly [string, string])[] = [
  ['frames', 'A frame is a function with the place where it begins, not the allocating line.'],
  ['types', 'V8 tells no types of what is allocated on its heap.'],
  [
    'outside-watched',
    'Outside the heap, what Buffer and ArrayBuffer were asked for is seen. Stores of typed arrays, of the runtime itself and of WebAssembly are in the total only.',
  ],
];
const ATTACHED_NOTE =
  'The recorder was attached to a running program: what was allocated before is part of the heap and of no site. Code that was optimised before may hide a survivor behind a temporary that was allocated with it. Workers and what lies outside the heap are not followed.';
const INLINING_NOTE =
  'Optimised code may book what a small function allocates under its caller. --exact switches that off; it may slow code that churns.';

/**
 * Records one isolate through the addon, which takes births, deaths and collections in the runtime's own callbacks.
 * Here is what needs the event loop: commands and marks, forced collections, places in sources.
 */
export class NativeRecorder extends RecorderBase {
  private readonly addon: Addon;
  private readonly places = new SourcePlaces();
  private readonly excerpts: SourceExcerpts;
  private readonly stores: StoreWatch;

  /** @throws when the recording's file cannot be opened. */
  constructor(settings: RecorderSettings, addon: Addon, ownDirectory: string) {
    const heap = `${process.pid}.${threadId}`;
    const bufferIntervalBytes = STORE_INTERVAL_RATIO * settings.intervalBytes;
    addon.open(
      settings.out,
      heap,
      ownDirectory,
      {
        intervalBytes: settings.intervalBytes,
        bufferIntervalBytes,
        share: READ_SHARE,
        floorEveryMs: settings.floorEveryMs,
        floorShare: settings.floorShareRatio,
        watchLimit: isMainThread && !hasOwnLimitWatch(),
        isMain: isMainThread,
        mayWiden: settings.mayWiden,
        mayHideGc: typeof (globalThis as { gc?: unknown }).gc !== 'function',
      },
      isMainThread || heapName() !== unnamedWorker() ? null : process.argv,
    );
    super(settings, new AddonLines(addon, heap));
    this.addon = addon;
    this.excerpts = new SourceExcerpts(this.lines, this.places.carried);
    this.stores = new StoreWatch(bufferIntervalBytes, (store, isBuffer, bytes) =>
      addon.followStore(store, isBuffer, bytes),
    );
    // V8 hangs a sample on the first object of a folded group: a survivor behind a temporary would never be seen.
    setFlagsFromString('--no-turbo-allocation-folding');
    if (settings.exact) setFlagsFromString('--no-turbo-inlining');
    this.hello();
  }

  protected now(): number {
    return this.addon.now();
  }

  protected onStart(): void {
    this.addon.start();
    if (isMainThread) this.addon.onSignal((signal) => this.finish(signal));
    subscribe(WORKER_CHANNEL, this.onWorker);
    if (this.settings.outside) this.stores.install();
    this.lines.flush();
  }

  protected onTick(): void {
    this.addon.tick();
    this.tellFrames();
  }

  protected collectNow(): void {
    this.addon.force();
  }

  protected writeSnapshot(file: string, keepIds: boolean): string {
    return this.addon.writeSnapshot(file, keepIds);
  }

  protected watchBirths(on: boolean): void {
    this.addon.watchBirths(on);
  }

  protected startOver(): void {
    this.addon.startOver();
  }

  protected onFinish(reason: string): void {
    unsubscribe(WORKER_CHANNEL, this.onWorker);
    this.stores.stop();
    this.tellFrames();
    this.addon.tick();
    this.tellFrames();
    this.addon.finish(reason);
  }

  // A worker that was given an environment without our options is not reached: that there is one must be said.
  private readonly onWorker = (message: unknown): void => {
    const { threadId: id } = (message as { worker?: { threadId?: number } }).worker ?? {};
    if (id === undefined) return;
    setTimeout(
      () =>
        this.guard(() => {
          if (!this.addon.isOpened(`${process.pid}.${id}`))
            this.note(
              'worker-not-recorded',
              `Worker ${id} runs without the recorder, as it was given an environment or options of its own: nothing is seen of its heap.`,
            );
        }),
      WORKER_SPEAKS_MS,
    ).unref();
  };

  private hello(): void {
    const { settings } = this;
    const own = ownRules(process.argv[1]);
    this.lines.add({
      k: 'hello',
      schema: STREAM_SCHEMA_NAME,
      epochMs: this.addon.epochMs(),
      program: programName(settings),
      ...(settings.name === '' ? {} : { named: true }),
      runtime: `Node.js ${process.version}`,
      collector: 'V8',
      heapName: heapName(),
      pid: process.pid,
      interval: settings.intervalBytes,
      limit: heapLimitBytes(),
      ...containerLimit(),
      births: 'all',
      ...(settings.exact ? {} : { inlined: true }),
      ...(settings.attached ? { attached: true } : {}),
      ...(own.length === 0 ? {} : { own }),
    });
    if (!settings.exact) this.note('inlining', INLINING_NOTE, 0);
    for (const [code, message] of NOTES)
      if (code !== 'outside-watched' || settings.outside) this.note(code, message, 0);
    if (settings.attached) this.note('attached', ATTACHED_NOTE, 0);
  }

  // Frames were told as they run; where their source is takes reading maps, which is done here, in pieces.
  private tellFrames(): void {
    const frames = this.addon.takeFrames();
    const placed: { frame: number[]; file: string[]; line: number[]; col: number[] } = {
      frame: [],
      file: [],
      line: [],
      col: [],
    };
    const before = this.places.hasMapped;
    for (let at = 0; at < frames.length; at += 4) {
      const [id, url, line, column] = [
        frames[at] as number,
        frames[at + 1] as string,
        frames[at + 2] as number,
        frames[at + 3] as number,
      ];
      const place = this.places.of(url, line, column);
      if (place.url !== url || place.line !== line || place.column !== column) {
        placed.frame.push(id);
        placed.file.push(place.url);
        placed.line.push(place.line);
        placed.col.push(place.column);
      }
      if (this.settings.source) this.excerpts.tell(place.url, place.line);
    }
    if (placed.frame.length > 0) this.lines.add({ k: 'places', ...placed });
    if (this.places.hasMapped && !before)
      this.note('source-maps', 'Places are those of the sources that source maps name, not of the files that ran.');
  }
}

// The runtime's own watch would be hidden by a second one.
function hasOwnLimitWatch(): boolean {
  return (
    [...process.execArgv, process.env['NODE_OPTIONS'] ?? ''].some((word) =>
      word.includes('--heapsnapshot-near-heap-limit'),
    ) || getHeapStatistics().heap_size_limit === 0
  );
}
