import '../no-generated-code.ts';
import { HeronDb, type RecordingRow } from '../db/heron-db.ts';
import { EMPTY_NOTEBOOK, programPauses, stepPause, wholeSpan, type Notebook } from '@brisk-heron/core';
import { collectionDetailOf } from './answers/collection-detail.ts';
import { collectionsOf } from './answers/collections.ts';
import { Evidence } from './answers/evidence.ts';
import { growthOf } from './answers/growth.ts';
import { keyDetailOf } from './answers/key-detail.ts';
import { ledgerAnswerOf } from './answers/ledger.ts';
import { momentOf } from './answers/moment.ts';
import { overviewOf } from './answers/overview.ts';
import { pathsOf } from './answers/paths.ts';
import { sizesOf } from './answers/sizes.ts';
import { ribbonOf } from './answers/ribbon.ts';
import { sitesOf } from './answers/sites.ts';
import { collectionLines } from './collection-lines.ts';
import { exportFile } from './export-file.ts';
import { importFiles } from './import-files.ts';
import { LiveLink } from './live-link.ts';
import { PROTOCOL_VERSION, type Calls, type Message, type Progress, type Request, type RunsTold } from './protocol.ts';
import { RecordingSession } from './recording-session.ts';
import { summaryOf } from './summary.ts';

/** Events, their columns and everything computed from them live here; the page gets answers. */

interface WorkerScope {
  postMessage(message: Message, transfer?: Transferable[]): void;
  onmessage: ((event: MessageEvent<Request>) => void) | null;
}
const scope = self as unknown as WorkerScope;

const CHANGE_MS = 500;
const PROGRESS_MS = 80;
const SUMMARY_MS = 5000;

const db = new HeronDb();
let known: Evidence | null = null;
let notebook: Notebook = EMPTY_NOTEBOOK;
let session: RecordingSession | null = null;
let link: LiveLink | null = null;
let changePosted = false;
let lastProgressMs = 0;
let lastSummaryMs = 0;

scope.onmessage = (event) => {
  const { id } = event.data;
  answer(event.data).then(
    (value) => scope.postMessage({ version: PROTOCOL_VERSION, kind: 'answer', id, value }, buffersOf(value)),
    (error: unknown) => scope.postMessage({ version: PROTOCOL_VERSION, kind: 'failure', id, message: error instanceof Error ? error.message : String(error) }),
  );
};

async function answer(request: Request): Promise<Calls[keyof Calls]['answer']> {
  switch (request.call) {
    case 'importFiles': return { recordingId: await importFiles(db, request.ask.recordingId, request.ask.files, postProgress) };
    case 'exportFile': return exportFile(db, request.ask.recordingId);
    case 'open': return open(request.ask);
    case 'close':
      await link?.flush();
      await keepSummary(true);
      return { closed: true };
    case 'overview': return { ...overviewOf(evidence(), request.ask.look), ...runsTold() };
    case 'ribbon': return ribbonOf(current(), request.ask, evidence().chosen(request.ask.find));
    case 'growth': return growthOf(evidence(), request.ask.look, request.ask.rounds);
    case 'collections': return collectionsOf(current(), request.ask);
    case 'collection': return collectionDetailOf(current(), request.ask.row);
    case 'lines': return collectionLines(db, opened(), current(), request.ask.row);
    case 'step': return { row: stepTo(request.ask) };
    case 'chooseRun':
      opened().chosenRun = request.ask.run;
      return { durationMs: current().durationMs };
    case 'sites': return sitesOf(evidence(), request.ask.look);
    case 'paths': return pathsOf(evidence(), request.ask);
    case 'sizes': return sizesOf(evidence(), request.ask.look);
    case 'ledger': return ledgerAnswerOf(evidence(), request.ask);
    case 'key': return keyDetailOf(evidence(), request.ask.look, request.ask.charge, request.ask.key);
    case 'moment': return momentOf(evidence(), request.ask);
    case 'note': return note(request.ask.notebook);
  }
}

function opened(): RecordingSession {
  if (session === null) throw new Error('no recording is open');
  return session;
}

function current() {
  return opened().recording();
}

// What the answers rest on, of the run that is looked at.
function evidence(): Evidence {
  const recording = current();
  recording.givenLimitBytes = notebook.limitBytes ?? NaN;
  recording.givenOwnRules = notebook.ownRules ?? null;
  if (known?.recording !== recording) known = new Evidence(recording);
  return known;
}

async function note(next: Notebook): Promise<{ noted: true }> {
  notebook = next;
  const { recordingId } = opened();
  await db.recordings.update(recordingId, { notebook: next, ...(opened().hasRecording() && link?.state !== 'connecting' ? summaryOf(current(), evidence()) : {}) });
  return { noted: true };
}

function stepTo({ row, step, span, by, fromMs }: Calls['step']['ask']): number {
  const recording = current();
  return stepPause(recording, programPauses(recording, span ?? wholeSpan(recording)), row, step, { by, ...(fromMs === null ? {} : { fromMs }) });
}

function runsTold(): RunsTold {
  const { runs } = opened();
  return {
    run: runs.indexOf(current()),
    runs: runs.map(({ collector, tables: { collections }, startEpochMs, durationMs }) => ({ collector, collections: collections.length, startEpochMs, durationMs })),
  };
}

async function open(ask: Calls['open']['ask']): Promise<{ opened: true }> {
  const opened = new RecordingSession(ask.recordingId);
  if (ask.streamId !== '') await db.recordings.where('id').equals(ask.recordingId).count().then((known) => (known === 0 ? db.recordings.add(liveRow(ask)) : undefined));
  const row = await db.recordings.get(ask.recordingId);
  if (row === undefined) throw new Error('this recording is not in this browser: it may have been deleted, or belongs to another browser');
  notebook = row.notebook ?? EMPTY_NOTEBOOK;
  if (ask.streamId === '') {
    await opened.load(db, postProgress);
    opened.end();
    session = opened;
  } else {
    link = new LiveLink({ db, session: opened, server: ask.server, streamId: ask.streamId, onChange: postChange });
    await link.claim();
    await opened.load(db, postProgress);
    session = opened;
    link.connect();
  }
  postChange();
  return { opened: true };
}

function liveRow(ask: Calls['open']['ask']): RecordingRow {
  const now = Date.now();
  return {
    id: ask.recordingId, name: ask.streamId, program: '', runtime: '', startedEpochMs: now, addedEpochMs: now, durationMs: 0, bytes: 0,
    verdictKind: 'unclear', sentence: '', strip: [], streamId: ask.streamId, parts: [],
  };
}

function postChange(): void {
  if (changePosted) return;
  changePosted = true;
  setTimeout(() => {
    changePosted = false;
    const durationMs = session?.hasRecording() ? session.recording().durationMs : 0;
    scope.postMessage({ version: PROTOCOL_VERSION, kind: 'changed', durationMs, link: link?.state ?? 'none', warning: link?.warning ?? '' });
    void keepSummary();
  }, CHANGE_MS);
}

// The list's row of a live recording is kept up to date, so that it is right after the tab dies.
async function keepSummary(now = false): Promise<void> {
  const due = now || link?.state === 'ended' || Date.now() - lastSummaryMs >= SUMMARY_MS;
  // Before the link has caught up, only a part of the recording is here: its verdict would be another.
  if (session === null || link === null || link.state === 'connecting' || !session.hasRecording() || !due) return;
  lastSummaryMs = Date.now();
  const recording = session.recording();
  await db.recordings.where('id').equals(session.recordingId).modify((row) => {
    if (row.program === '') row.name = recording.program;
    Object.assign(row, summaryOf(recording, evidence()));
    if (Number.isFinite(recording.startEpochMs)) row.startedEpochMs = recording.startEpochMs;
  });
}

function postProgress(progress: Progress): void {
  const now = performance.now();
  if (now - lastProgressMs < PROGRESS_MS) return;
  lastProgressMs = now;
  scope.postMessage({ version: PROTOCOL_VERSION, kind: 'progress', progress });
}

// Typed arrays made for an answer are handed over, not copied; those deeper inside are few. Site figures share none of the recording's own columns.
function buffersOf(value: unknown): Transferable[] {
  const buffers = new Set<ArrayBuffer>();
  if (typeof value === 'object' && value !== null) {
    for (const member of Object.values(value)) if (ArrayBuffer.isView(member) && member.buffer instanceof ArrayBuffer) buffers.add(member.buffer);
  }
  return [...buffers];
}
