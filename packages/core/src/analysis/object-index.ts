import { growableRows } from '../base/growable-rows.ts';
import { GrowableTable } from '../base/growable-table.ts';
import type { Recording } from '../model/recording.ts';
import { bytesVariance, countVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import { endOfWorkMs } from './end-of-work.ts';
import { observedSettleMs } from './settle-time.ts';

/** Numbers of one origin in a running sum: bytes, their variance, objects, their variance, samples. */
export const RUNNING = 5;

/** What outlived the index's bound or was lost from sight: a copy of an object's columns, in order of its row. */
const longSchema = {
  row: 'u32',
  bornMs: 'f64',
  endMs: 'f64',
  lost: 'u8',
  bytes: 'f64',
  variance: 'f64',
  count: 'f64',
  countVariance: 'f64',
  originId: 'u32',
} as const;

/** Rows of a birth chunk; more where the running sums of many origins would take over `MOST_SUM_BYTES`. */
const CHUNK_ROWS = 16_384;
const MOST_SUM_BYTES = 64 * 2 ** 20;

/**
 * Answers questions about a span of objects without a pass over all of them.
 *
 * Most objects die young. So what was allocated in a span is a difference of two running sums, which are kept at every
 * `chunkRows` rows, and a row by row count of the stretch between the span's edge and the nearest such row. What of it
 * still lives is different: an object may have been born long before the span. The few objects that live long are
 * therefore copied into a small table, `long`, which every question looks through as a whole.
 *
 * Invariant: `long` holds every object that lived longer than `boundMs`, is still followed, or was lost from sight. An
 * object that was followed when it was copied may have died since, younger than `boundMs`: who counts rows near an edge
 * must then pass over its copy.
 *
 * `update` takes in what was read since the last call, in time proportional to the new objects and the followed ones.
 * Each time the number of objects has doubled, the index is built anew with a new bound.
 */
export class ObjectIndex {
  readonly recording: Recording;
  private workOf = '';
  private workEndMs = Infinity;
  /** Objects that lived no longer than this are not in `long`. */
  boundMs = 0;
  long = new GrowableTable(longSchema);
  private updatedOf = '';
  private observedOf = '';
  private observedMs = 0;
  private rows = 0;
  private boundRows = 0;
  private thinnings = 0;
  private chunkRows = CHUNK_ROWS;
  /** Earliest and latest birth of each whole chunk. */
  private firstBorn: number[] = [];
  private lastBorn: number[] = [];
  /** Running sums before each chunk, `[originId · RUNNING + …]`; a later one may know more origins. */
  private before: Float64Array[] = [];
  private running = new Float64Array(0);

  constructor(recording: Recording) {
    this.recording = recording;
  }

  /** When the program began to let go of what it held (analysis/end-of-work.ts), as far as it was read. */
  get endOfWorkMs(): number {
    const of = `${this.recording.bytes} ${this.recording.durationMs}`;
    if (of !== this.workOf) this.workEndMs = endOfWorkMs(this.recording);
    this.workOf = of;
    return this.workEndMs;
  }

  update(): void {
    const {
      bytes,
      durationMs,
      tables: { objects, origins },
    } = this.recording;
    // What was read tells what came, deaths of known objects too.
    const of = `${bytes} ${durationMs} ${objects.length}`;
    if (of === this.updatedOf) return;
    this.updatedOf = of;
    // Rows have moved where the recording was thinned.
    if (objects.length > 2 * this.boundRows || this.recording.thinnings.length !== this.thinnings) this.restart();
    this.refreshEnds();
    if (this.running.length < origins.length * RUNNING) this.running = extended(this.running, origins.length * RUNNING);
    while (this.rows < objects.length) {
      if (this.rows % this.chunkRows === 0) this.beginChunk();
      this.takeRows(Math.min(objects.length, this.rows + this.chunkRows - (this.rows % this.chunkRows)));
    }
  }

  /** The settle time that the lifetimes seen so far suggest, before it is cut to a span. */
  get settleMs(): number {
    const { objects, collections, polls } = this.recording.tables;
    const of = `${objects.length} ${collections.length} ${polls.length}`;
    if (of !== this.observedOf) {
      this.observedOf = of;
      this.observedMs = observedSettleMs(this.recording);
    }
    return this.observedMs;
  }

  /** Whole chunks, all of them finished but perhaps the last. */
  get chunks(): number {
    return this.before.length;
  }

  /** Rows of a chunk: from the first to before the second. */
  rowsOf(chunk: number): readonly [number, number] {
    return [chunk * this.chunkRows, Math.min(this.rows, (chunk + 1) * this.chunkRows)];
  }

  /** Earliest and latest birth in a chunk. */
  birthsOf(chunk: number): readonly [number, number] {
    return [this.firstBorn[chunk]!, this.lastBorn[chunk]!];
  }

  /** Adds what the chunks from the first to before the second allocated: `into[originId · stride + 0…4]`. */
  addChunks(from: number, to: number, into: Float64Array, stride: number): void {
    const start = this.before[from] ?? this.running;
    const end = this.before[to] ?? this.running;
    for (let origin = 0; origin * RUNNING < end.length; origin++) {
      const known = origin * RUNNING < start.length;
      for (let place = 0; place < RUNNING; place++)
        into[origin * stride + place]! +=
          end[origin * RUNNING + place]! - (known ? start[origin * RUNNING + place]! : 0);
    }
  }

  /**
   * Rows of the objects that live at an instant: born by then, and not known to have died by then. Looks at the
   * long-lived ones and at those born at most `boundMs` before.
   */
  liveAt(tMs: number): Uint32Array {
    this.update();
    const { bornMs, endMs } = this.recording.tables.objects.col;
    const { boundMs } = this;
    const rows = growableRows();
    const { length, col: long } = this.long;
    for (let at = 0; at < length; at++) {
      const young = long.endMs[at]! <= long.bornMs[at]! + boundMs;
      if (young || long.bornMs[at]! > tMs || long.endMs[at]! <= tMs) continue;
      rows.add(long.row[at]!);
    }
    for (let chunk = 0; chunk < this.chunks; chunk++) {
      if (this.firstBorn[chunk]! > tMs || this.lastBorn[chunk]! < tMs - boundMs) continue;
      const [from, to] = this.rowsOf(chunk);
      for (let row = from; row < to; row++) {
        if (bornMs[row]! <= tMs && endMs[row]! > tMs && endMs[row]! <= bornMs[row]! + boundMs) rows.add(row);
      }
    }
    return rows.values();
  }

  private restart(): void {
    const { objects, origins } = this.recording.tables;
    this.boundRows = objects.length;
    this.thinnings = this.recording.thinnings.length;
    this.boundMs = this.settleMs;
    this.long = new GrowableTable(longSchema);
    this.rows = 0;
    this.firstBorn = [];
    this.lastBorn = [];
    this.before = [];
    this.running = new Float64Array(0);
    const bytesAChunk = Math.max(1, origins.length) * RUNNING * 8;
    this.chunkRows = CHUNK_ROWS;
    // Twice what is there may come before the next restart.
    while (((2 * objects.length) / this.chunkRows) * bytesAChunk > MOST_SUM_BYTES) this.chunkRows *= 2;
  }

  private beginChunk(): void {
    this.before.push(this.running.slice());
    this.firstBorn.push(Infinity);
    this.lastBorn.push(-Infinity);
  }

  private takeRows(end: number): void {
    const { bornMs, endMs, lost, originId, sizeBytes, probability } = this.recording.tables.objects.col;
    const { running, boundMs } = this;
    const chunk = this.before.length - 1;
    let [first, last] = [this.firstBorn[chunk]!, this.lastBorn[chunk]!];
    for (let row = this.rows; row < end; row++) {
      const born = bornMs[row]!;
      if (born < first) first = born;
      if (born > last) last = born;
      const p = probability[row]!;
      const at = originId[row]! * RUNNING;
      const bytes = estimatedBytes(sizeBytes[row]!, p);
      const variance = p === 1 ? 0 : bytesVariance(sizeBytes[row]!, p);
      running[at]! += bytes;
      running[at + 1]! += variance;
      running[at + 2]! += 1 / p;
      running[at + 3]! += p === 1 ? 0 : countVariance(p);
      running[at + 4]!++;
      if (endMs[row]! <= born + boundMs && lost[row] === 0) continue;
      const to = this.long.addRow();
      const { col } = this.long;
      col.row[to] = row;
      col.bornMs[to] = born;
      col.endMs[to] = endMs[row]!;
      col.lost[to] = lost[row]!;
      col.bytes[to] = bytes;
      col.variance[to] = variance;
      col.count[to] = 1 / p;
      col.countVariance[to] = p === 1 ? 0 : countVariance(p);
      col.originId[to] = originId[row]!;
    }
    this.firstBorn[chunk] = first;
    this.lastBorn[chunk] = last;
    this.rows = end;
  }

  // What was followed at the last update may have ended since.
  private refreshEnds(): void {
    const { endMs: told, lost: toldLost } = this.recording.tables.objects.col;
    const { row, endMs, lost } = this.long.col;
    for (let at = 0; at < this.long.length; at++) {
      if (!Number.isNaN(endMs[at]!)) continue;
      endMs[at] = told[row[at]!]!;
      lost[at] = toldLost[row[at]!]!;
    }
  }
}

function extended(column: Float64Array, length: number): Float64Array<ArrayBuffer> {
  const next = new Float64Array(length);
  next.set(column);
  return next;
}
