import {
  askMeasure,
  askPair,
  isRemembered,
  type SideAsk,
  sideSchema,
  type Study,
  type StudySide,
} from '@brisk-heron/core';
import { type HeronDb, importLock } from '../db/heron-db.ts';
import { collectionLines } from './collection-lines.ts';
import { exportFile } from './export-file.ts';
import { groupFiles, type ImportedRecording, importFiles } from './import-files.ts';
import { ledgerFile } from './ledger-file.ts';
import { OpenRecording } from './open-recording.ts';
import type { Progress } from './progress.ts';
import { type Calls, type Message, OTHER_VERSION, PROTOCOL_VERSION, type Request } from './protocol.ts';

/** A message without its version, which the worker adds. */
export type Told = Message extends infer M ? (M extends Message ? Omit<M, 'version'> : never) : never;

const PROGRESS_MS = 80;

/** Takes what the page asks and tells the answers: the recordings that are open, and the work that goes on. */
export class WorkerDesk {
  private readonly db: HeronDb;
  private readonly tell: (message: Told, transfer: Transferable[]) => void;
  private readonly recordings = new Map<string, OpenRecording>();
  private imported: ImportedRecording | null = null;
  private lastProgressMs = 0;
  private lastDoing = '';
  /** Number of the file that is being written; others were stopped. */
  private writing = 0;

  constructor(db: HeronDb, tell: (message: Told, transfer: Transferable[]) => void) {
    this.db = db;
    this.tell = tell;
  }

  /** Answers one request, or tells why not. */
  async take(request: Request): Promise<void> {
    const fromMs = performance.now();
    try {
      if (request.version !== PROTOCOL_VERSION) throw new Error(OTHER_VERSION);
      const value = await this.answer(request);
      this.tell({ kind: 'answer', id: request.id, value } as Told, buffersOf(value));
    } catch (error) {
      const message = error instanceof Error ? error.message : String(error);
      this.tell({ kind: 'failure', id: request.id, message } as Told, []);
    }
    if (request.call === 'measure')
      this.recordings.get(request.ask.sides[0].recording ?? '')?.answered(performance.now() - fromMs);
  }

  private async answer({ call, ask }: Request): Promise<unknown> {
    switch (call) {
      case 'groupFiles':
        return groupFiles(ask.files);
      case 'importFiles':
        return this.importFiles(ask);
      case 'exportFile':
        return exportFile(this.db, ask.recordingId, this.progress);
      case 'open':
        return this.open(ask);
      case 'close':
        await this.recordings.get(ask.recordingId)?.close();
        this.recordings.delete(ask.recordingId);
        return { closed: true };
      case 'measure':
        return this.measure(ask);
      case 'lines':
        return collectionLines(this.db, this.opened(ask.side).session, this.side(ask.side).recording, ask.row);
      case 'note':
        await this.recordings.get(ask.recordingId)?.note(ask.notebook);
        return { noted: true };
      case 'eventFiles':
        return this.writeEvents(ask.side);
      case 'ledgerFile': {
        const [mine, side] = [++this.writing, this.side(ask.side)];
        const isStopped = (): boolean => mine !== this.writing;
        return ledgerFile(side.found(ask.ask), side.look(ask.ask), this.progress, isStopped);
      }
      case 'stopEventFiles':
        this.writing++;
        return { stopped: true };
    }
  }

  private measure({ sides, measure, ask }: Calls['measure']['ask']): unknown {
    const [side, other] = sides;
    if (other === undefined) return askMeasure(this.study(side), side, measure, ask);
    return askPair([this.study(side), side], [this.study(other), other], measure, ask);
  }

  private async importFiles({ files, recordingId }: Calls['importFiles']['ask']): Promise<{ recordingId: string }> {
    // Held while files are read: a row that is being imported and has no reader any more was broken off.
    this.imported = await navigator.locks.request(importLock(recordingId), () =>
      importFiles(this.db, recordingId, files, this.progress),
    );
    return { recordingId };
  }

  private open(ask: Calls['open']['ask']): Promise<Calls['open']['answer']> {
    const recording = new OpenRecording(ask.recordingId, {
      db: this.db,
      onProgress: this.progress,
      onChanged: (changed) => this.tell(changed, []),
    });
    this.recordings.set(ask.recordingId, recording);
    const imported = this.imported?.session.recordingId === ask.recordingId ? this.imported : null;
    if (imported !== null) this.imported = null;
    return recording.open(ask, imported);
  }

  private opened({ recording = '' }: SideAsk): OpenRecording {
    const found = this.recordings.get(recording);
    if (found === undefined) throw new Error('this recording is not open');
    return found;
  }

  private study(side: SideAsk): Study {
    return this.opened(side).study;
  }

  private side(side: SideAsk): StudySide {
    return this.study(side).side(sideSchema.parse(side));
  }

  // Loaded when it is first wanted: few take events away. Asked again or stopped, what was being written ends.
  private async writeEvents(side: SideAsk): Promise<Calls['eventFiles']['answer']> {
    const mine = ++this.writing;
    const { eventFiles } = await import('./event-files.ts');
    return eventFiles(this.side(side).recording, this.progress, () => mine !== this.writing);
  }

  private readonly progress = (progress: Progress): void => {
    const now = performance.now();
    // That it does something else is told at once.
    if (progress.doing === this.lastDoing && now - this.lastProgressMs < PROGRESS_MS) return;
    this.lastProgressMs = now;
    this.lastDoing = progress.doing;
    this.tell({ kind: 'progress', progress } as Told, []);
  };
}

// A view on part of a buffer may share it with the recording's own columns.
function isAllOf(view: ArrayBufferView): boolean {
  return view.byteLength === view.buffer.byteLength;
}

// Typed arrays made for an answer are handed over, not copied; those deeper inside are few. Site figures share none of
// the recording's own columns.
function buffersOf(value: unknown): Transferable[] {
  const buffers = new Set<ArrayBuffer>();
  if (typeof value === 'object' && value !== null) {
    for (const member of Object.values(value))
      if (
        ArrayBuffer.isView(member) &&
        member.buffer instanceof ArrayBuffer &&
        isAllOf(member) &&
        !isRemembered(member.buffer)
      )
        buffers.add(member.buffer);
  }
  return [...buffers];
}
