import {
  BlockCheck,
  groupParts,
  isRecordingHeader,
  missingOfExport,
  missingOfGzip,
  orderParts,
  readRecordingHeader,
  type Recording,
  type RecordingHeader,
  Study,
} from '@brisk-heron/core';
import { type HeronDb, isQuotaError, type RecordingRow } from '../db/heron-db.ts';
import { cannotBeRead, ChunkStore } from './chunk-store.ts';
import { chunkPieces, joined } from '../db/chunk-bytes.ts';
import type { Progress } from './progress.ts';
import { ReadSoFar } from './read-so-far.ts';
import { RecordingSession } from './recording-session.ts';
import { summaryOf } from './summary.ts';

const HEAD_BYTES = 64 * 1024;
/** By so many bytes an exported recording is known. */
const HEADER_SIGN_BYTES = 64;

/** A recording as it was read while it was stored: it can be looked at without being read again. */
export interface ImportedRecording {
  readonly session: RecordingSession;
  readonly study: Study;
}

/**
 * Reads files into a new recording: parts of a rotated log in the order their content tells, plain or gzip, or one
 * exported recording. Everything is stored as it came while it is read. On failure nothing stays behind.
 * @throws with a message for people when the input cannot be used or the browser cannot store it.
 */
export async function importFiles(
  db: HeronDb,
  id: string,
  files: readonly File[],
  onProgress: (progress: Progress) => void,
): Promise<ImportedRecording> {
  if (files.length === 0) throw new Error('no file was given');
  const heads = await Promise.all(files.map(readHead));
  const parts = orderParts(heads).map((part) => files[part]!);
  await db.recordings.add(blankRow(id, parts));
  try {
    return await readInto(db, id, parts, onProgress);
  } catch (error) {
    await db.removeRecording(id);
    if (isQuotaError(error))
      throw new Error(
        'the browser has no room left for this recording: delete others, or analyze the file on the command line',
        { cause: error },
      );
    throw error;
  }
}

async function readInto(
  db: HeronDb,
  id: string,
  parts: readonly File[],
  onProgress: (progress: Progress) => void,
): Promise<ImportedRecording> {
  const session = new RecordingSession(id);
  const soFar = new ReadSoFar(session);
  const store = new ChunkStore(db, session);
  const totalBytes = parts.reduce((sum, part) => sum + part.size, 0);
  session.expect(totalBytes);
  let doneBytes = 0;
  let header: RecordingHeader | null = null;
  let missing = '';
  const lengths: { name: string; bytes: number }[] = [];
  for (const part of parts) {
    const startBytes = store.addedBytes;
    const tell = (read: number): void =>
      onProgress({ doing: `Reading ${part.name}`, doneBytes: doneBytes + read, totalBytes, soFar: soFar.told });
    const read = await readPart(part, store, tell);
    header = read.header ?? header;
    missing ||= read.missing;
    doneBytes += part.size;
    lengths.push({ name: part.name, bytes: store.addedBytes - startBytes });
  }
  await store.pass();
  session.end();
  onProgress({ doing: 'Looking at all that was read', doneBytes: totalBytes, totalBytes, soFar: soFar.told });
  const study = new Study(session, header?.notebook);
  study.missing = missing;
  const recording = study.run();
  // What was read last is on its way into the store while the recording is looked at.
  const summary = summaryOf(study);
  await store.flush();
  await db.recordings.update(id, {
    ...summary,
    bytes: session.bytes,
    parts: lengths,
    importing: false,
    ...(missing === '' ? {} : { missing }),
    ...(header === null
      ? nameGiven(recording)
      : { name: header.name, ...(header.notebook === undefined ? {} : { notebook: header.notebook }) }),
    ...(Number.isFinite(recording.startEpochMs) ? { startedEpochMs: recording.startEpochMs } : {}),
  });
  return { session, study };
}

// What `--name` said; else the recording is called after its file.
function nameGiven({ isNamed, program }: Recording): Pick<RecordingRow, 'name'> | object {
  return isNamed ? { name: program } : {};
}

/** What a file was: its header where it is an exported recording, and what of it is not good. */
interface PartRead {
  readonly header: RecordingHeader | null;
  readonly missing: string;
}

async function readPart(file: File, store: ChunkStore, tell: (readBytes: number) => void): Promise<PartRead> {
  const packed = await isGzip(file);
  if (!packed && !(await isExport(file))) return readPlain(file, store, tell);
  const counted = file.stream().pipeThrough(countBytes(tell));
  const stream = packed ? counted.pipeThrough(new DecompressionStream('gzip')) : counted;
  const reader = stream.getReader();
  let header: RecordingHeader | null = null;
  let check: BlockCheck | null = null;
  let first = true;
  for (;;) {
    const value = await readChunk(reader, file.name, packed, first);
    if (value === null || value === 'cut') return { header, missing: missingOf(file, header, check, value === 'cut') };
    const split: { rest: Uint8Array; header: RecordingHeader | null } = first
      ? await splitHeader(value, reader)
      : { rest: value, header };
    header = split.header;
    if (first && header?.sums !== undefined) check = new BlockCheck(header.sums);
    first = false;
    await store.add(check === null ? split.rest : check.take(split.rest));
  }
}

// What is stored of a plain file is the file's own parts, which the browser copies while they are read here.
async function readPlain(file: File, store: ChunkStore, tell: (readBytes: number) => void): Promise<PartRead> {
  await store.pass();
  const pieces = chunkPieces({ bytes: file });
  let readBytes = 0;
  for (;;) {
    const { value } = await pieces.next().catch((cause: unknown) => {
      throw cannotBeRead(file.name, cause);
    });
    await store.addOfFile(file, readBytes, value ?? null);
    if (value === undefined) return { header: null, missing: '' };
    readBytes += value.length;
    tell(readBytes);
  }
}

async function isExport(file: File): Promise<boolean> {
  return isRecordingHeader(await file.slice(0, HEADER_SIGN_BYTES).text());
}

function missingOf(file: File, header: RecordingHeader | null, check: BlockCheck | null, cut: boolean): string {
  if (check !== null && check.goodBytes === 0 && check.missingBytes > 0)
    throw new Error('the exported recording is damaged from its beginning: export it again where it came from');
  if (check !== null && check.missingBytes > 0)
    return missingOfExport(check.goodBytes, check.goodBytes + check.missingBytes);
  return cut ? missingOfGzip(file.name) : (header?.missing ?? '');
}

// The next bytes, null at the end. A compressed file may be cut off: what came before is good.
async function readChunk(
  reader: ReadableStreamDefaultReader<Uint8Array>,
  name: string,
  packed: boolean,
  first: boolean,
): Promise<Uint8Array | null | 'cut'> {
  try {
    const { done, value } = await reader.read();
    return done ? null : value;
  } catch (error) {
    if (packed && !first) return 'cut';
    if (!packed) throw cannotBeRead(name, error);
    throw new Error(`${name} is damaged from its beginning: expected gzip data`, { cause: error });
  }
}

// An exported recording begins with a line that says what follows; the list keeps what it says, the store the rest.
async function splitHeader(
  start: Uint8Array,
  reader: ReadableStreamDefaultReader<Uint8Array>,
): Promise<{ rest: Uint8Array; header: RecordingHeader | null }> {
  let head = start;
  if (!isRecordingHeader(new TextDecoder().decode(head.subarray(0, HEADER_SIGN_BYTES))))
    return { rest: head, header: null };
  while (head.indexOf(10) < 0) {
    const { done, value } = await reader.read();
    if (done) throw new Error('the exported recording is cut off in its header: export it again');
    head = joined([head, value]);
  }
  const end = head.indexOf(10);
  const check = readRecordingHeader(new TextDecoder().decode(head.subarray(0, end)));
  if (!check.ok) throw new Error(check.why);
  return { rest: head.slice(end + 1), header: check.header };
}

function countBytes(
  tell: (readBytes: number) => void,
): TransformStream<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>> {
  let read = 0;
  return new TransformStream({
    transform(chunk, controller) {
      read += chunk.length;
      tell(read);
      controller.enqueue(chunk);
    },
  });
}

function blankRow(id: string, parts: readonly File[]): RecordingRow {
  const now = Date.now();
  return {
    id,
    name: parts[0]!.name.replace(/\.(?:heron|log|txt|ndjson)?(?:\.gz)?$/, ''),
    program: '',
    runtime: '',
    startedEpochMs: now,
    addedEpochMs: now,
    durationMs: 0,
    bytes: 0,
    verdictKind: 'unclear',
    sentence: '',
    strip: [],
    streamId: '',
    parts: [],
    chunks: 0,
    importing: true,
  };
}

/**
 * Files that were given at once, by the run that they hold: each group is one recording. Copies of a file are left out.
 */
export async function groupFiles(
  files: readonly File[],
): Promise<{ readonly groups: readonly (readonly File[])[]; readonly copies: readonly File[] }> {
  const parts = await Promise.all(
    files.map(async (file) => ({
      name: file.name,
      bytes: file.size,
      head: await readHead(file),
      tail: await readTail(file),
    })),
  );
  const groups = groupParts(parts);
  return {
    groups: groups.map((group) => group.files.map((place) => files[place]!)),
    copies: groups.flatMap((group) => group.copies.map((place) => files[place]!)),
  };
}

// Of a compressed file only the beginning can be had without reading it all.
async function readTail(file: File): Promise<string> {
  return (await isGzip(file))
    ? ''
    : new TextDecoder('windows-1252').decode(await file.slice(Math.max(0, file.size - HEAD_BYTES)).arrayBuffer());
}

async function readHead(file: File): Promise<string> {
  const decoder = new TextDecoder('windows-1252');
  if (!(await isGzip(file))) return decoder.decode(await file.slice(0, HEAD_BYTES).arrayBuffer());
  const reader = file.slice(0, HEAD_BYTES).stream().pipeThrough(new DecompressionStream('gzip')).getReader();
  let text = '';
  try {
    while (text.length < HEAD_BYTES) {
      const { done, value } = await reader.read();
      if (done) break;
      text += decoder.decode(value);
    }
  } catch {
    // Only the head was unpacked, so the stream looks cut off: what came out is what was wanted.
  }
  await reader.cancel().catch(() => undefined);
  return text;
}

async function isGzip(file: File): Promise<boolean> {
  const [first, second] = new Uint8Array(await file.slice(0, 2).arrayBuffer());
  return first === 0x1f && second === 0x8b;
}
