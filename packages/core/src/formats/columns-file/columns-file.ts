import type { GrowableTable, TableSchema } from '../../base/growable-table.ts';
import { Recording, type SourceFormat } from '../../model/recording.ts';
import { UNKNOWN_RUNTIME } from '../../model/runtime-traits.ts';
import { createTables } from '../../model/tables.ts';
import { RUNTIMES } from '../../runtimes/registry.ts';
import type { SourceShape } from '../source-text.ts';
import {
  aligned,
  COLUMNS_MAGIC,
  COLUMNS_VERSION,
  columnsHead,
  columnSum,
  HEAD_AT,
  type ColumnsHead,
  type RunHead,
} from './layout.ts';

declare const TextEncoder: new () => { encode(text: string): Uint8Array };
declare const TextDecoder: new () => { decode(bytes: Uint8Array): string };

/** What a file of columns holds. */
export interface StoredColumns {
  readonly runs: readonly Recording[];
  readonly source: SourceShape;
}

/**
 * Writes the runs of a finished input as one file (layout.ts). Memory: the file, beside the columns. Settings that were
 * given, and heaps that were chosen, are not in it.
 */
export function writeColumns(runs: readonly Recording[], source: SourceShape): Uint8Array<ArrayBuffer> {
  const head: ColumnsHead = { fingerprint: fingerprint(), source, runs: runs.map(headOf) };
  const headBytes = new TextEncoder().encode(JSON.stringify(head, plainNumber));
  let length = aligned(HEAD_AT + headBytes.length);
  for (const run of runs)
    for (const table of tablesOf(run))
      for (const column of columnsOf(table)) length = aligned(length + table.length * column.BYTES_PER_ELEMENT);
  const file = new Uint8Array(length);
  file.set(new TextEncoder().encode(COLUMNS_MAGIC));
  file.fill(0x20, HEAD_AT + headBytes.length, aligned(HEAD_AT + headBytes.length));
  file.set(headBytes, HEAD_AT);
  let at = aligned(HEAD_AT + headBytes.length);
  for (const run of runs)
    for (const table of tablesOf(run))
      for (const column of columnsOf(table)) {
        const bytes = table.length * column.BYTES_PER_ELEMENT;
        file.set(new Uint8Array(column.buffer, column.byteOffset, bytes), at);
        at = aligned(at + bytes);
      }
  const view = new DataView(file.buffer);
  view.setUint32(8, COLUMNS_VERSION, true);
  view.setUint32(16, headBytes.length, true);
  view.setUint32(12, columnSum(file, 16), true);
  return file;
}

/**
 * Reads a file of columns; its columns are views on the bytes given, which belong to the recordings from then on. Null
 * for whatever is not whole, of another version, or of other tables: the source is to be read then.
 */
export function readColumns(file: Uint8Array<ArrayBuffer>): StoredColumns | null {
  const head = checkedHead(file);
  if (head === null) return null;
  let at = aligned(HEAD_AT + new DataView(file.buffer, file.byteOffset).getUint32(16, true));
  const runs: Recording[] = [];
  for (const run of head.runs) {
    const recording = recordingOf(run);
    const tables = tablesOf(recording);
    if (run.rows.length !== tables.length) return null;
    for (const [place, table] of tables.entries()) {
      const views = [];
      for (const column of columnsOf(table)) {
        const rows = run.rows[place]!;
        if (at + rows * column.BYTES_PER_ELEMENT > file.length) return null;
        views.push(viewLike(column, file, at, rows));
        at = aligned(at + rows * column.BYTES_PER_ELEMENT);
      }
      table.adopt(views, run.rows[place]!);
    }
    runs.push(recording);
  }
  return { runs, source: head.source };
}

function checkedHead(file: Uint8Array<ArrayBuffer>): ColumnsHead | null {
  if (file.length < HEAD_AT || file.byteOffset % 8 !== 0) return null;
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength);
  const decoder = new TextDecoder();
  if (decoder.decode(file.subarray(0, 8)) !== COLUMNS_MAGIC || view.getUint32(8, true) !== COLUMNS_VERSION) return null;
  const headLength = view.getUint32(16, true);
  if (HEAD_AT + headLength > file.length || view.getUint32(12, true) !== columnSum(file, 16)) return null;
  const head = columnsHead.safeParse(parsed(decoder.decode(file.subarray(HEAD_AT, HEAD_AT + headLength))));
  return head.success && head.data.fingerprint === fingerprint() ? head.data : null;
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return null;
  }
}

// Names and kinds of every column, in order.
function fingerprint(): string {
  return Object.entries(createTables())
    .map(
      ([name, { schema }]) =>
        `${name}(${Object.entries(schema)
          .map(([column, kind]) => `${column}:${kind}`)
          .join(' ')})`,
    )
    .join(' ');
}

function tablesOf(recording: Recording): GrowableTable<TableSchema>[] {
  return Object.values(recording.tables) as unknown as GrowableTable<TableSchema>[];
}

type Column = GrowableTable<TableSchema>['col'][string];

function columnsOf(table: GrowableTable<TableSchema>): Column[] {
  return Object.keys(table.schema).map((name) => table.col[name]!);
}

function viewLike(column: Column, file: Uint8Array<ArrayBuffer>, at: number, rows: number): Column {
  const from = file.byteOffset + at;
  if (column instanceof Float64Array) return new Float64Array(file.buffer, from, rows);
  if (column instanceof Float32Array) return new Float32Array(file.buffer, from, rows);
  if (column instanceof Uint32Array) return new Uint32Array(file.buffer, from, rows);
  if (column instanceof Uint16Array) return new Uint16Array(file.buffer, from, rows);
  return new Uint8Array(file.buffer, from, rows);
}

// JSON knows no NaN and no infinity; none of the latter is stored.
function plainNumber(_: string, value: unknown): unknown {
  return typeof value === 'number' && !Number.isFinite(value) ? null : value;
}

function headOf(recording: Recording): RunHead {
  const { format, program, runtime, collector, startEpochMs, durationMs, containerLimitBytes } = recording;
  const { missing, ended, hasClock, freesConcurrently, bytes, lines, strings, issues, heaps } = recording;
  return {
    facts: {
      ...{ format, program, runtime, collector, startEpochMs, durationMs, containerLimitBytes },
      ...{ missing, ended, hasClock, freesConcurrently, bytes, lines },
    },
    heaps: heaps.map(({ traits, ...heap }) => ({ ...heap, runtime: traits.name })),
    strings: Array.from({ length: strings.length }, (_, id) => strings.text(id)),
    issues: { count: issues.count, byCode: Object.entries(issues.byCode), first: [...issues.first] },
    notes: [...recording.notes],
    thinnings: [...recording.thinnings],
    excerpts: [...recording.excerpts].map(([place, { firstLine, lines: text }]) => [
      place,
      { firstLine, lines: [...text] },
    ]),
    ownPrefixes: [...recording.ownPrefixes],
    outsideTypes: [...recording.outsideTypes],
    rows: tablesOf(recording).map(({ length }) => length),
  };
}

function recordingOf(run: RunHead): Recording {
  const recording = new Recording(run.facts.format as SourceFormat);
  const { startEpochMs, containerLimitBytes, ...facts } = run.facts;
  Object.assign(recording, facts, {
    startEpochMs: startEpochMs ?? NaN,
    containerLimitBytes: containerLimitBytes ?? NaN,
  });
  for (const text of run.strings) recording.intern(text);
  for (const { runtime, name, ...heap } of run.heaps) {
    const traits = RUNTIMES.find((each) => each.name === runtime) ?? UNKNOWN_RUNTIME;
    const { samplingIntervalBytes, limitBytes, liveAtEnd, endMs, outOfMemoryMs, ...flags } = heap;
    recording.heaps.push({
      name,
      traits,
      ...flags,
      samplingIntervalBytes: samplingIntervalBytes ?? NaN,
      limitBytes: limitBytes ?? NaN,
      liveAtEnd: liveAtEnd ?? NaN,
      endMs: endMs ?? NaN,
      outOfMemoryMs: outOfMemoryMs ?? NaN,
    });
  }
  recording.issues.count = run.issues.count;
  for (const [code, count] of run.issues.byCode) recording.issues.byCode[code] = count;
  for (const issue of run.issues.first) recording.issues.first.push({ ...issue, byteOffset: issue.byteOffset ?? NaN });
  recording.notes.push(...run.notes);
  recording.thinnings.push(...run.thinnings);
  for (const [place, excerpt] of run.excerpts) recording.excerpts.set(place, excerpt);
  recording.ownPrefixes.push(...run.ownPrefixes);
  for (const typeId of run.outsideTypes) recording.outsideTypes.add(typeId);
  return recording;
}
