import { subscribe, unsubscribe } from 'node:diagnostics_channel';
import { ControlFile, type Command } from './control-file.ts';
import type { LineSink } from './line-sink.ts';
import { BIRTHS_CHANNEL, MARK_CHANNEL, START_OVER_CHANNEL, START_OVER_LABEL } from './channels.ts';
import type { RecorderSettings } from './settings.ts';

const TICK_MS = 250;
/** A mark that is older than this when it arrives was not on its way all the time: the clocks differ. */
const MOST_LATE_MS = 60_000;
const MOST_LABEL_CHARS = 200;

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
    if (this.settings.collectAtMarks && !this.ended) this.collectNow();
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
