import '../no-generated-code.ts';
import { HeronDb, importLock, type RecordingRow } from '../db/heron-db.ts';
import {
  EMPTY_NOTEBOOK,
  heapsPart,
  programPauses,
  stepPause,
  wholeSpan,
  type Notebook,
  type Recording,
} from '@brisk-heron/core';
import { churnOf } from './answers/churn.ts';
import { collectionDetailOf } from './answers/collection-detail.ts';
import { collectionsOf } from './answers/collections.ts';
import { Evidence, type Look } from './answers/evidence.ts';
import { completionOf } from './answers/found.ts';
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
import { groupFiles, importFiles, type ImportedRecording } from './import-files.ts';
import { ledgerFile } from './ledger-file.ts';
import { LiveLink } from './live-link.ts';
import type { Progress } from './progress.ts';
import { PROTOCOL_VERSION, type Calls, type Message, type Request, type RunsTold } from './protocol.ts';
import { RecordingSession } from './recording-session.ts';
import { summaryOf } from './summary.ts';

/** Events, their columns and everything computed from them live here; the page gets answers. */

interface WorkerScope {
  postMessage(message: Message, transfer?: Transferable[]): void;
  onmessage: ((event: MessageEvent<Request>) => void) | null;
}
const scope = self as unknown as WorkerScope;

/**
 * A change is told this often, or less: what the page asks then may take a share of the time only, so that reading what
 * arrives comes first.
 */
const CHANGE_MS = 500;
const MOST_CHANGE_MS = 10_000;
const TIMES_ANSWERING = 2;
const TIMES_SUMMARY = 20;
const PROGRESS_MS = 80;
const SUMMARY_MS = 5000;

const db = new HeronDb();
let known: Evidence | null = null;
let imported: ImportedRecording | null = null;
let notebook: Notebook = EMPTY_NOTEBOOK;
let missing = '';
let chosenHeaps: readonly number[] | null = null;
let session: RecordingSession | null = null;
let link: LiveLink | null = null;
let changePosted = false;
let changedMs = 0;
/** What was spent on answers since the last change was told. */
let answeringMs = 0;
/** What the last summary took. */
let summaryMs = 0;
let lastProgressMs = 0;
let lastSummaryMs = 0;
let writing = 0;

scope.onmessage = (event) => {
  const { id } = event.data;
  const fromMs = performance.now();
  answer(event.data)
    .finally(() => {
      answeringMs += performance.now() - fromMs;
    })
    .then(
      (value) => scope.postMessage({ version: PROTOCOL_VERSION, kind: 'answer', id, value }, buffersOf(value)),
      (error: unknown) =>
        scope.postMessage({
          version: PROTOCOL_VERSION,
          kind: 'failure',
          id,
          message: error instanceof Error ? error.message : String(error),
        }),
    );
};

async function answer(request: Request): Promise<Calls[keyof Calls]['answer']> {
  switch (request.call) {
    case 'groupFiles':
      return groupFiles(request.ask.files);
    case 'importFiles':
      // Held while files are read: a row that is being imported and has no reader any more was broken off.
      imported = await navigator.locks.request(importLock(request.ask.recordingId), () =>
        importFiles(db, request.ask.recordingId, request.ask.files, postProgress),
      );
      return { recordingId: request.ask.recordingId };
    case 'exportFile':
      return exportFile(db, request.ask.recordingId, postProgress);
    case 'open':
      return open(request.ask);
    case 'close':
      await link?.flush();
      await keepSummary(true);
      return { closed: true };
    case 'overview':
      return { ...overviewOf(evidence(), request.ask.look), ...runsTold() };
    case 'ribbon': {
      const { look } = request.ask;
      return ribbonOf(found(look).recording, request.ask, evidence().chosen(look.find));
    }
    case 'collections':
      return collectionsOf(current(), request.ask);
    case 'collection':
      return collectionDetailOf(current(), request.ask.row);
    case 'lines':
      return collectionLines(db, opened(), current(), request.ask.row);
    case 'step':
      return { row: stepTo(request.ask) };
    case 'chooseRun':
      opened().chosenRun = request.ask.run;
      chosenHeaps = null;
      return { durationMs: current().durationMs };
    case 'chooseHeaps':
      chosenHeaps = request.ask.heaps;
      return { chosen: true };
    case 'complete':
      return completionOf(evidence(), request.ask.text, request.ask.caret);
    case 'note':
      return note(request.ask.notebook);
    case 'eventFiles':
      return writeEvents();
    case 'ledgerFile':
      return writeLedger(request.ask.look);
    case 'stopEventFiles':
      writing++;
      return { stopped: true };
    default:
      return objectAnswer(request);
  }
}

type ObjectCall = 'growth' | 'sites' | 'churn' | 'paths' | 'sizes' | 'ledger' | 'key' | 'moment';

// Answers about the objects that the look's find lets through.
function objectAnswer({ call, ask }: Extract<Request, { call: ObjectCall }>): Calls[ObjectCall]['answer'] {
  switch (call) {
    case 'growth':
      return growthOf(found(ask.look), ask.look, ask.rounds);
    case 'sites':
      return sitesOf(evidence(), ask);
    case 'churn':
      return churnOf(found(ask.look), ask.look);
    case 'paths':
      return pathsOf(found(ask.look), ask);
    case 'sizes':
      return sizesOf(found(ask.look), ask.look);
    case 'ledger':
      return ledgerAnswerOf(found(ask.look), ask);
    case 'key':
      return keyDetailOf(found(ask.look), ask.look, ask.charge, ask.key);
    case 'moment':
      return momentOf(found(ask.look), ask);
  }
}

function opened(): RecordingSession {
  if (session === null) throw new Error('no recording is open');
  return session;
}

function whole(): Recording {
  const recording = opened().recording();
  recording.givenLimitBytes = notebook.limitBytes ?? NaN;
  recording.givenOwnRules = notebook.ownRules ?? null;
  if (missing !== '') recording.missing = missing;
  return recording;
}

// The run that is looked at, or of it the heaps that are.
function current(): Recording {
  return evidence().recording;
}

// What the answers rest on. Of some heaps it is made anew when the recording has grown.
function evidence(): Evidence {
  const all = evidenceOfAll();
  const heaps = chosenHeaps;
  return heaps === null ? all : all.once('heaps', heaps.join(), () => new Evidence(heapsPart(all.recording, heaps)), 1);
}

function evidenceOfAll(): Evidence {
  const recording = whole();
  if (known?.recording !== recording) known = new Evidence(recording);
  return known;
}

// The objects that the look's find lets through.
function found(look: Look): Evidence {
  return evidence().within(look);
}

// The page stores the notebook itself, at once: here is what it changes of the list's row.
async function note(next: Notebook): Promise<{ noted: true }> {
  notebook = next;
  const { recordingId } = opened();
  if (opened().hasRecording() && link?.state !== 'connecting' && link?.state !== 'behind')
    await db.recordings.update(recordingId, summaryOf(whole(), evidenceOfAll()));
  return { noted: true };
}

// Loaded when it is first wanted: few take events away. Asked again or stopped, what was being written ends.
async function writeEvents(): Promise<Calls['eventFiles']['answer']> {
  const mine = ++writing;
  const { eventFiles } = await import('./event-files.ts');
  return eventFiles(current(), postProgress, () => mine !== writing);
}

async function writeLedger(look: Look): Promise<Blob | null> {
  const mine = ++writing;
  return ledgerFile(found(look), look, postProgress, () => mine !== writing);
}

function stepTo({ row, step, span, by, fromMs }: Calls['step']['ask']): number {
  const recording = current();
  return stepPause(recording, programPauses(recording, span ?? wholeSpan(recording)), row, step, {
    by,
    ...(fromMs === null ? {} : { fromMs }),
  });
}

function runsTold(): RunsTold {
  const { runs } = opened();
  return {
    run: runs.indexOf(whole()),
    runs: runs.map(({ collector, tables: { collections }, startEpochMs, durationMs }) => ({
      collector,
      collections: collections.length,
      startEpochMs,
      durationMs,
    })),
  };
}

async function open(ask: Calls['open']['ask']): Promise<Calls['open']['answer']> {
  const opened = new RecordingSession(ask.recordingId);
  if (ask.streamId !== '')
    await db.recordings
      .where('id')
      .equals(ask.recordingId)
      .count()
      .then((known) => (known === 0 ? db.recordings.add(liveRow(ask)) : undefined));
  const row = await db.recordings.get(ask.recordingId);
  if (row === undefined)
    throw new Error('this recording is not in this browser: it may have been deleted, or belongs to another browser');
  notebook = row.notebook ?? EMPTY_NOTEBOOK;
  missing = row.missing ?? '';
  if (imported?.session.recordingId === ask.recordingId) {
    ({ session, evidence: known } = imported);
    imported = null;
  } else if (ask.streamId === '') {
    await db.mendRecording(ask.recordingId);
    missing = (await db.recordings.get(ask.recordingId))?.missing ?? '';
    await opened.load(db, postProgress);
    opened.end();
    session = opened;
    // One whose import was broken off has no sentence yet.
    if (row.sentence === '') await db.recordings.update(ask.recordingId, summaryOf(whole(), evidenceOfAll()));
  } else {
    link = new LiveLink({ db, session: opened, server: ask.server, streamId: ask.streamId, onChange: postChange });
    if (await link.claim()) await db.mendRecording(ask.recordingId);
    await opened.load(db, postProgress);
    session = opened;
    link.connect();
  }
  postChange();
  return { name: row.name, notebook };
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

function postChange(): void {
  if (changePosted) return;
  changePosted = true;
  setTimeout(tellChange, CHANGE_MS);
}

function tellChange(): void {
  const waitMs = changedMs + Math.min(MOST_CHANGE_MS, TIMES_ANSWERING * answeringMs) - performance.now();
  if (waitMs > 0 && (link?.state === 'live' || link?.state === 'behind')) {
    setTimeout(tellChange, waitMs);
    return;
  }
  changePosted = false;
  changedMs = performance.now();
  answeringMs = 0;
  const durationMs = session?.hasRecording() ? session.recording().durationMs : 0;
  scope.postMessage({
    version: PROTOCOL_VERSION,
    kind: 'changed',
    durationMs,
    link: link?.state ?? 'none',
    warning: link?.warning ?? '',
    behindBytes: link?.behindBytes ?? 0,
    endedHow: link?.endedHow ?? '',
  });
  void keepSummary();
}

// The list's row of a live recording is kept up to date, so that it is right after the tab dies.
async function keepSummary(now = false): Promise<void> {
  const due =
    now || link?.state === 'ended' || Date.now() - lastSummaryMs >= Math.max(SUMMARY_MS, TIMES_SUMMARY * summaryMs);
  // Before the link has caught up, only a part of the recording is here: its verdict would be another.
  if (
    session === null ||
    link === null ||
    link.state === 'connecting' ||
    link.state === 'behind' ||
    !session.hasRecording() ||
    !due
  )
    return;
  lastSummaryMs = Date.now();
  const fromMs = performance.now();
  const recording = whole();
  const summary = summaryOf(recording, evidenceOfAll());
  summaryMs = performance.now() - fromMs;
  await db.recordings
    .where('id')
    .equals(session.recordingId)
    .modify((row) => {
      if (row.program === '' && recording.program !== '') row.name = recording.program;
      Object.assign(row, summary);
      if (Number.isFinite(recording.startEpochMs)) row.startedEpochMs = recording.startEpochMs;
    });
}

function postProgress(progress: Progress): void {
  const now = performance.now();
  if (now - lastProgressMs < PROGRESS_MS) return;
  lastProgressMs = now;
  scope.postMessage({ version: PROTOCOL_VERSION, kind: 'progress', progress });
}

// Typed arrays made for an answer are handed over, not copied; those deeper inside are few. Site figures share none of
// the recording's own columns.
function buffersOf(value: unknown): Transferable[] {
  const buffers = new Set<ArrayBuffer>();
  if (typeof value === 'object' && value !== null) {
    for (const member of Object.values(value))
      if (ArrayBuffer.isView(member) && member.buffer instanceof ArrayBuffer) buffers.add(member.buffer);
  }
  return [...buffers];
}
