import { subscribe, unsubscribe } from 'node:diagnostics_channel';
import { renameSync, rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { getHeapStatistics } from 'node:v8';
import { isMainThread, threadId } from 'node:worker_threads';
import { ControlFile, type Command, type InventoryCommand } from './control-file.ts';
import { V8_INVENTORY, whyNoRoom } from './inventory-room.ts';
import type { LineSink } from './line-sink.ts';
import { BIRTHS_CHANNEL, MARK_CHANNEL, START_OVER_CHANNEL, START_OVER_LABEL } from './channels.ts';
import type { RecorderSettings } from './settings.ts';

const TICK_MS = 250;
/** A mark that is older than this when it arrives was not on its way all the time: the clocks differ. */
const MOST_LATE_MS = 60_000;
const MOST_LABEL_CHARS = 200;
/** To look whether the heap is near its limit forces a collection: not more often than this. */
const LIMIT_LOOK_MS = 30_000;
/** How an inventory is taken that nobody pressed a button for. */
const UNASKED = { insist: false, workers: false, ids: false } as const;

/**
 * What every recorder of one isolate does: regular work, commands and marks, and an end. Nothing in here throws into
 * the program or keeps it alive.
 */
export abstract class RecorderBase {
  protected readonly settings: RecorderSettings;
  protected readonly lines: LineSink;
  private readonly control: ControlFile;
  /** Called where the recording is to end and the program goes on; null where that cannot be. */
  onStop: (() => void) | null = null;
  private timer: NodeJS.Timeout | null = null;
  private ended = false;
  /** When it is looked again whether the heap is near its limit. */
  private nearLimitMs = 0;

  protected constructor(settings: RecorderSettings, lines: LineSink) {
    this.settings = settings;
    this.lines = lines;
    this.control = new ControlFile(settings.control);
  }

  /** Milliseconds since this heap's recording began. */
  protected abstract now(): number;
  protected abstract onStart(): void;
  protected abstract onTick(): void;
  /** Makes a whole collection, so that what is dead is known to be. */
  protected abstract collectNow(): void;
  /** Whether births are told from now on; what was told stays followed. */
  protected abstract watchBirths(on: boolean): void;
  /** What is followed is let go, and what is born from now on is followed anew. */
  protected abstract startOver(): void;
  /** Writes every object of the heap to a new file. Answers why it could not, or ''. */
  protected abstract writeSnapshot(file: string, keepIds: boolean): string;
  /** Reads a last time, tells the end and writes everything. */
  protected abstract onFinish(reason: string): void;

  start(): void {
    this.guard(() => this.onStart());
    if (this.settings.birthsOff) this.guard(() => this.watchBirths(false));
    this.timer = setInterval(() => this.guard(() => this.tick()), TICK_MS);
    this.timer.unref();
    subscribe(MARK_CHANNEL, this.onMark);
    subscribe(BIRTHS_CHANNEL, this.onBirths);
    subscribe(START_OVER_CHANNEL, this.onStartOver);
  }

  /** Safe to call twice. */
  finish(reason: string): void {
    if (this.ended) return;
    // A mark that was answered just before the end is in the file by now.
    this.guard(() => {
      for (const command of this.control.take()) if (command.do === 'mark') this.obey(command);
    });
    this.ended = true;
    if (this.timer !== null) clearInterval(this.timer);
    unsubscribe(MARK_CHANNEL, this.onMark);
    unsubscribe(BIRTHS_CHANNEL, this.onBirths);
    unsubscribe(START_OVER_CHANNEL, this.onStartOver);
    this.guard(() => this.onFinish(reason));
  }

  protected mark(label: string, by: 'program' | 'page', epochMs = NaN): void {
    const lateMs = Date.now() - epochMs;
    this.lines.add({
      k: 'mark',
      t: Math.max(0, this.now() - (lateMs > 0 && lateMs <= MOST_LATE_MS ? lateMs : 0)),
      label,
      by,
    });
    if (this.ended) return;
    if (this.settings.collectAtMarks) this.collectNow();
    if (this.settings.inventoryMark === label) this.takeInventory(UNASKED);
  }

  // The mark is where the page looks from.
  private beginAnew(by: 'program' | 'page'): void {
    this.startOver();
    this.lines.add({ k: 'mark', t: this.now(), label: START_OVER_LABEL, by });
  }

  protected note(code: string, message: string, t = this.now()): void {
    this.lines.add({ k: 'note', t, code, message });
  }

  // Whatever goes wrong in here must not reach the recorded program.
  protected guard(work: () => void): void {
    try {
      work();
    } catch (error) {
      try {
        this.note('recorder-failed', String(error).slice(0, 500));
      } catch {
        this.ended = true;
      }
    }
  }

  private tick(): void {
    for (const command of this.control.take()) this.obey(command);
    this.onTick();
    this.lookAtLimit();
  }

  // The file is left beside the recording, for whoever sends that on. The program stands still meanwhile.
  private takeInventory({ insist, ids }: Omit<InventoryCommand, 'do'>): void {
    const { out } = this.settings;
    const heapBytes = getHeapStatistics().used_heap_size;
    const { memoryRatio, fileRatio } = V8_INVENTORY;
    const short = insist ? '' : whyNoRoom(memoryRatio * heapBytes, fileRatio * heapBytes, dirname(out));
    if (short !== '') return this.note('inventory-not-taken', `No inventory was taken: ${short}.`);
    const heap = `${process.pid}.${threadId}`;
    const taking = `${out}.taking-${heap}.heapsnapshot`;
    rmSync(taking, { force: true });
    const fromMs = this.now();
    const why = this.writeSnapshot(taking, ids);
    if (why !== '') {
      rmSync(taking, { force: true });
      return this.note('inventory-not-taken', `No inventory was taken: ${why}.`);
    }
    this.lines.add({ k: 'mark', t: fromMs, label: 'inventory', by: 'recorder' });
    this.lines.flush();
    const tookMs = Math.round(this.now() - fromMs);
    renameSync(taking, `${out}.inventory-${heap}-${Math.round(fromMs)}-${tookMs}.heapsnapshot`);
  }

  // Once, when what is left after a whole collection is so much of the limit. Garbage may look the same until then.
  private lookAtLimit(): void {
    const { inventoryPercent } = this.settings;
    if (inventoryPercent === 0 || this.nearLimitMs === Infinity || this.now() < this.nearLimitMs) return;
    const isNear = (): boolean => {
      const { used_heap_size: used, heap_size_limit: limit } = getHeapStatistics();
      return used >= (limit * inventoryPercent) / 100;
    };
    if (!isNear()) return;
    this.collectNow();
    this.nearLimitMs = isNear() ? Infinity : this.now() + LIMIT_LOOK_MS;
    if (this.nearLimitMs === Infinity) this.takeInventory(UNASKED);
  }

  private obey(command: Command): void {
    switch (command.do) {
      case 'mark':
        this.mark(command.label, 'page', command.epochMs);
        break;
      case 'births':
        this.watchBirths(command.on);
        break;
      case 'startOver':
        this.beginAnew('page');
        break;
      case 'collect':
        this.collectNow();
        break;
      case 'inventory':
        if (isMainThread || command.workers) this.takeInventory(command);
        break;
      case 'stop':
        this.onStop?.();
        break;
    }
  }

  private readonly onBirths = (on: unknown): void => this.guard(() => this.watchBirths(on !== false));

  private readonly onStartOver = (): void => this.guard(() => this.beginAnew('program'));

  private readonly onMark = (message: unknown): void =>
    this.guard(() => this.mark(String(message).slice(0, MOST_LABEL_CHARS), 'program'));
}
