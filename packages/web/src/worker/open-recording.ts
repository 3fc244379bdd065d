import { EMPTY_NOTEBOOK, type Notebook, Study } from '@brisk-heron/core';
import type { HeronDb, RecordingRow } from '../db/heron-db.ts';
import type { ImportedRecording } from './import-files.ts';
import { keepColumns, keptColumns } from './kept-columns.ts';
import { LiveLink } from './live-link.ts';
import type { Progress } from './progress.ts';
import type { Calls, Changed } from './protocol.ts';
import { RecordingSession } from './recording-session.ts';
import { summaryOf } from './summary.ts';

/**
 * A change is told this often, or less: what the page asks then may take a share of the time only, so that reading what
 * arrives comes first.
 */
const CHANGE_MS = 500;
const MOST_CHANGE_MS = 10_000;
const TIMES_ANSWERING = 2;
const TIMES_SUMMARY = 20;
const SUMMARY_MS = 5000;
/** Columns are kept this long after a recording was opened, or has ended, or the last answer: the page looks elsewhere. */
const KEEP_AFTER_MS = 3000;

/** What an open recording needs of the worker around it. */
export interface Surroundings {
  readonly db: HeronDb;
  readonly onProgress: (progress: Progress) => void;
  readonly onChanged: (changed: Changed) => void;
}

/** One recording that is open in the worker: its bytes, its study, its link to the server, its row in the list. */
export class OpenRecording {
  readonly recordingId: string;
  private readonly around: Surroundings;
  private opened: { readonly session: RecordingSession; readonly study: Study } | null = null;
  private link: LiveLink | null = null;
  /** How the program of a stream ended whose columns were kept; null for any other. */
  private endedHow: string | null = null;
  /** Columns that are about to be kept. */
  private keeping: { readonly endedHow: string | null; readonly timer: ReturnType<typeof setTimeout> } | null = null;
  private changePosted = false;
  private changedMs = 0;
  /** What was spent on answers since the last change was told. */
  private answeringMs = 0;
  /** What the last summary took, and when it was made. */
  private summaryMs = 0;
  private lastSummaryMs = 0;

  constructor(recordingId: string, around: Surroundings) {
    this.recordingId = recordingId;
    this.around = around;
  }

  /** Everything that was read of it. @throws while it is being opened. */
  get study(): Study {
    return this.there().study;
  }

  /** Its bytes. @throws while it is being opened. */
  get session(): RecordingSession {
    return this.there().session;
  }

  private there(): { readonly session: RecordingSession; readonly study: Study } {
    if (this.opened === null) throw new Error('this recording is still being opened');
    return this.opened;
  }

  /** Loads what the browser has of it, or takes what was just imported, and follows its stream when it has one. */
  async open(ask: Calls['open']['ask'], imported: ImportedRecording | null): Promise<Calls['open']['answer']> {
    const { db } = this.around;
    if (ask.streamId !== '' && (await db.recordings.where('id').equals(ask.recordingId).count()) === 0)
      await db.recordings.add(liveRow(ask));
    const row = await db.recordings.get(ask.recordingId);
    if (row === undefined)
      throw new Error('this recording is not in this browser: it may have been deleted, or belongs to another browser');
    const notebook = row.notebook ?? EMPTY_NOTEBOOK;
    if (imported !== null) {
      this.opened = imported;
      imported.study.note(notebook);
    } else await this.load(ask, row, notebook);
    this.study.name = row.name;
    this.study.missing = (await db.recordings.get(ask.recordingId))?.missing ?? '';
    // One whose import was broken off has no sentence yet.
    if (ask.streamId === '' && row.sentence === '') await db.recordings.update(ask.recordingId, summaryOf(this.study));
    this.link?.connect();
    // What is here is told at once, behind the answer to this; what comes then now and again.
    this.postChange(this.session.hasRecording() ? 0 : CHANGE_MS);
    if (ask.streamId === '') this.keepLater(null);
    return { name: row.name, notebook };
  }

  // Out of the columns that were kept, else out of the bytes.
  private async load(ask: Calls['open']['ask'], row: RecordingRow, notebook: Notebook): Promise<void> {
    const { db, onProgress } = this.around;
    const session = new RecordingSession(ask.recordingId);
    const study = new Study(session, notebook);
    const isStream = ask.streamId !== '';
    if (!isStream) await db.mendRecording(ask.recordingId);
    const kept = await keptColumns(db, (await db.recordings.get(ask.recordingId)) ?? row);
    if (kept !== null && (!isStream || kept.endedHow !== null)) {
      session.restore(kept.columns, kept.chunkEnds);
      this.endedHow = kept.endedHow;
    } else {
      if (isStream) {
        const onChange = (): void => this.postChange();
        this.link = new LiveLink({ db, session, server: ask.server, streamId: ask.streamId, onChange });
        if (await this.link.claim()) await db.mendRecording(ask.recordingId);
      }
      await session.load(db, onProgress);
      if (!isStream) session.end();
    }
    this.opened = { session, study };
  }

  // When the first screen has its answers: until then they come first.
  private keepLater(endedHow: string | null): void {
    clearTimeout(this.keeping?.timer);
    this.keeping = { endedHow, timer: setTimeout(() => void this.keepNow(), KEEP_AFTER_MS) };
  }

  private async keepNow(): Promise<void> {
    const { keeping } = this;
    this.keeping = null;
    clearTimeout(keeping?.timer);
    if (keeping !== null) await keepColumns(this.around.db, this.session, keeping.endedHow);
  }

  /** The page stores the notebook itself, at once: here is what it changes of the list's row. */
  async note(notebook: Notebook): Promise<void> {
    this.study.note(notebook);
    const isSettled = this.link?.state !== 'connecting' && this.link?.state !== 'behind';
    if (this.session.hasRecording() && isSettled)
      await this.around.db.recordings.update(this.recordingId, summaryOf(this.study));
  }

  /** Stores what is not stored yet. */
  async close(): Promise<void> {
    await this.link?.flush();
    await this.keepSummary(true);
    await this.keepNow();
  }

  /** An answer about it took so long. */
  answered(tookMs: number): void {
    this.answeringMs += tookMs;
    if (this.keeping !== null) this.keepLater(this.keeping.endedHow);
  }

  private postChange(afterMs = CHANGE_MS): void {
    if (this.changePosted) return;
    this.changePosted = true;
    setTimeout(() => this.tellChange(), afterMs);
  }

  private tellChange(): void {
    const { link } = this;
    const waitMs = this.changedMs + Math.min(MOST_CHANGE_MS, TIMES_ANSWERING * this.answeringMs) - performance.now();
    if (waitMs > 0 && (link?.state === 'live' || link?.state === 'behind')) {
      setTimeout(() => this.tellChange(), waitMs);
      return;
    }
    this.changePosted = false;
    this.changedMs = performance.now();
    this.answeringMs = 0;
    this.around.onChanged({
      kind: 'changed',
      recordingId: this.recordingId,
      durationMs: this.opened?.session.hasRecording() === true ? this.study.run().durationMs : 0,
      link: link?.state ?? (this.endedHow === null ? 'none' : 'ended'),
      warning: link?.warning ?? '',
      behindBytes: link?.behindBytes ?? 0,
      endedHow: link?.endedHow ?? this.endedHow ?? '',
    });
    void this.keepSummary();
    if (link?.state === 'ended' && link.warning === '') this.keepLater(link.endedHow);
  }

  // The list's row of a live recording is kept up to date, so that it is right after the tab dies.
  private async keepSummary(now = false): Promise<void> {
    const { link, opened } = this;
    const pauseMs = Math.max(SUMMARY_MS, TIMES_SUMMARY * this.summaryMs);
    const due = now || link?.state === 'ended' || Date.now() - this.lastSummaryMs >= pauseMs;
    // Before the link has caught up, only a part of the recording is here: its verdict would be another.
    if (link === null || link.state === 'connecting' || link.state === 'behind') return;
    if (opened === null || !opened.session.hasRecording() || !due) return;
    this.lastSummaryMs = Date.now();
    const fromMs = performance.now();
    const recording = opened.study.run();
    const summary = summaryOf(opened.study);
    this.summaryMs = performance.now() - fromMs;
    await this.around.db.recordings
      .where('id')
      .equals(this.recordingId)
      .modify((row) => {
        if (row.program === '' && recording.program !== '') row.name = recording.program;
        Object.assign(row, summary);
        if (Number.isFinite(recording.startEpochMs)) row.startedEpochMs = recording.startEpochMs;
      });
  }
}

function liveRow(ask: Calls['open']['ask']): RecordingRow {
  const now = Date.now();
  return {
    id: ask.recordingId,
    name: ask.streamId,
    program: '',
    runtime: '',
    startedEpochMs: now,
    addedEpochMs: now,
    durationMs: 0,
    bytes: 0,
    verdictKind: 'unclear',
    sentence: '',
    strip: [],
    streamId: ask.streamId,
    parts: [],
    chunks: 0,
  };
}
