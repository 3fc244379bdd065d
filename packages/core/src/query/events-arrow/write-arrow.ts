import { AsyncByteQueue, RecordBatchFileWriter, type RecordBatch, type Schema } from 'apache-arrow';
import type { Recording } from '../../model/recording.ts';
import { EventBatches } from './event-batches.ts';
import { batchesOf, inventoryTables } from './inventory-batches.ts';
import { pathBatch } from './path-batch.ts';

/** Called after each batch with the rows written so far and how many there will be; a promise is waited for. */
export type RowsWritten = (rows: number, of: number) => void | Promise<void>;

/**
 * The events of a recording as an Arrow IPC file (docs/events-arrow.md), piece by piece: objects, flows, collections,
 * pauses and marks, each in the order of its table. Memory: one batch of 65,536 rows and the dictionaries. Work stops
 * where a caller stops asking.
 */
export async function* eventsArrow(
  recording: Recording,
  onRows: RowsWritten = () => undefined,
): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  const events = new EventBatches(recording);
  const file = new ArrowFile(events.schema);
  let rows = 0;
  for (const batch of events.batches()) {
    yield file.add(batch);
    rows += batch.numRows;
    await onRows(rows, events.rows);
  }
  yield file.end();
}

/** The recording's call paths as an Arrow IPC file; `path_id` joins them to the events. */
export function pathsArrow(recording: Recording): Uint8Array<ArrayBuffer>[] {
  const batch = pathBatch(recording);
  const file = new ArrowFile(batch.schema);
  return [file.add(batch), file.end()];
}

/**
 * The last inventory of a recording as four Arrow IPC files (docs/inventories.md), each with its name and in pieces, to
 * be taken in order. Memory: a batch, beside who holds whom.
 */
export function* inventoryArrow(
  recording: Recording,
): Generator<{ readonly name: string; readonly pieces: Iterable<Uint8Array<ArrayBuffer>> }> {
  for (const table of inventoryTables(recording)) {
    const { name } = table;
    yield { name, pieces: filePieces(batchesOf(table, recording.program)) };
  }
}

function* filePieces(batches: Iterable<RecordBatch>): Generator<Uint8Array<ArrayBuffer>> {
  let file: ArrowFile | null = null;
  for (const batch of batches) {
    file ??= new ArrowFile(batch.schema);
    yield file.add(batch);
  }
  if (file !== null) yield file.end();
}

/** An Arrow file that is written batch by batch; each step answers the bytes that it adds. */
class ArrowFile {
  private readonly sink = new PieceQueue();
  private readonly writer = new RecordBatchFileWriter();

  constructor(schema: Schema) {
    this.writer.reset(this.sink, schema);
  }

  add(batch: RecordBatch): Uint8Array<ArrayBuffer> {
    if (batch.numRows > 0) this.writer.write(batch);
    return this.sink.take();
  }

  end(): Uint8Array<ArrayBuffer> {
    this.writer.finish();
    return this.sink.take();
  }
}

// What the writer writes, kept until it is taken as one piece.
class PieceQueue extends AsyncByteQueue {
  private pieces: Uint8Array[] = [];

  override write(value: Uint8Array): void {
    this.pieces.push(value);
  }

  take(): Uint8Array<ArrayBuffer> {
    const joined = new Uint8Array(this.pieces.reduce((sum, piece) => sum + piece.byteLength, 0));
    let at = 0;
    for (const piece of this.pieces) {
      joined.set(piece, at);
      at += piece.byteLength;
    }
    this.pieces = [];
    return joined;
  }
}
