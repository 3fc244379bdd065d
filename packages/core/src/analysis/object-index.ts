import { GrowableTable } from '../base/growable-table.ts';
import type { Recording } from '../model/recording.ts';
import { bytesVariance, countVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import { endOfWorkMs } from './end-of-work.ts';
import { observedSettleMs } from './settle-time.ts';

/** Numbers of one origin in a running sum: bytes, their variance, objects, their variance, samples. */
export const RUNNING = 5;

/** A copy of an object's columns. */
const longSchema = {
  row: 'u32',
  bornMs: 'f64',
  endMs: 'f64',
  lost: 'u8',
  sizeBytes: 'f64',
  probability: 'f32',
  originId: 'u32',
} as const;

/** What is told of an object, in the index's copy and in the recording alike. */
export interface ObjectColumns {
  readonly bornMs: Float64Array;
  readonly endMs: Float64Array;
  readonly sizeBytes: Float64Array;
  readonly probability: Float32Array;
  readonly originId: Uint32Array;
}

/** A stretch of copies: rows from the first to before the second. */
export interface LongLived {
  readonly col: LongColumns;
  readonly from: number;
  readonly to: number;
}

type LongColumns = GrowableTable<typeof longSchema>['col'];

/** Rows of a block of what has ended. */
const ENDED_ROWS = 4096;
/** Rows of a block, of which is known between which instants they were born. */
const BLOCK_ROWS = 16_384;
/** Running sums are kept at fewer blocks where those of many origins would take more than this. */
const MOST_SUM_BYTES = 64 * 2 ** 20;
/** Copies that stand behind those in order, at most so many times as few, and so many at least. */
const MOST_BEHIND_RATIO = 0.25;
const LEAST_BEHIND = 4096;
/** The bound is kept while the settle time that the lifetimes suggest is within this factor of it. */
const SAME_BOUND = 2;

/**
 * Answers questions about a span of objects without a pass over all of them.
 *
 * Most objects die young. So what was allocated in a span is a difference of two running sums, which are kept at every
 * block of rows or every few, and a row by row count of the stretch between the span's edge and the nearest such block.
 * What of it still lives is different: an object may have been born long before the span. The few objects that live long
 * are therefore copied into small tables, which every question looks through: `living` as a whole, in order of origins
 * but for the last that came, so that the sums of one are added up at one place in memory; `ended` by blocks, of which
 * most are of other times.
 *
 * Invariant: `ended` holds every object that lived longer than `boundMs` or was lost from sight, `living` every one that
 * is still followed.
 *
 * `update` takes in what was read since the last call, in time proportional to the new objects and the followed ones. It
 * is built anew with another bound where the lifetimes have come to suggest one, which is looked at each time the number
 * of objects has doubled, and where the recording was thinned.
 */
export class ObjectIndex {
  readonly recording: Recording;
  private workOf = '';
  private workEndMs = Infinity;
  /** Objects that lived no longer than this are in neither table. */
  boundMs = 0;
  private living = new GrowableTable(longSchema);
  private ended = new GrowableTable(longSchema);
  /** Of each block of `ended` the earliest birth, the latest end, and whether any was lost. */
  private earliestBirth: number[] = [];
  private latestEnd: number[] = [];
  private anyLost: boolean[] = [];
  private updatedOf = '';
  private observedOf = '';
  private observedMs = 0;
  private rows = 0;
  private boundRows = 0;
  private thinnings = 0;
  /** So many rows of `living` stand in order of their origins. */
  private inOrder = 0;
  /** Earliest and latest birth of each block. */
  private firstBorn: number[] = [];
  private lastBorn: number[] = [];
  /** Running sums before every so many blocks, `[originId · RUNNING + …]`; a later one may know more origins. */
  private before: Float64Array[] = [];
  private blocksASum = 1;
  private sumBytes = 0;
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
    if (this.isOutdated()) this.restart();
    this.refreshEnds();
    if (this.running.length < origins.length * RUNNING) this.running = extended(this.running, origins.length * RUNNING);
    while (this.rows < objects.length) {
      if (this.rows % BLOCK_ROWS === 0) this.beginBlock();
      this.takeRows(Math.min(objects.length, this.rows + BLOCK_ROWS - (this.rows % BLOCK_ROWS)));
    }
    this.putInOrder();
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

  /** Blocks, all of them full but perhaps the last. */
  get blocks(): number {
    return this.firstBorn.length;
  }

  /** Rows of a block: from the first to before the second. */
  rowsOf(block: number): readonly [number, number] {
    return [block * BLOCK_ROWS, Math.min(this.rows, (block + 1) * BLOCK_ROWS)];
  }

  /** Earliest and latest birth in a block. */
  birthsOf(block: number): readonly [number, number] {
    return [this.firstBorn[block]!, this.lastBorn[block]!];
  }

  /**
   * Adds what blocks from the first to before the second allocated, as far as running sums tell: `into[originId · stride
   * + 0…4]`. Answers the blocks that it added, which may be fewer: the rows of the others are to be added one by one.
   */
  addBlocks(from: number, to: number, into: Float64Array, stride: number): readonly [number, number] {
    const first = Math.ceil(from / this.blocksASum);
    const isLast = to === this.blocks;
    const last = isLast ? this.before.length : Math.floor(to / this.blocksASum);
    if (last <= first) return [from, from];
    const start = this.before[first]!;
    const end = this.before[last] ?? this.running;
    for (let origin = 0; origin * RUNNING < end.length; origin++) {
      const known = origin * RUNNING < start.length;
      for (let place = 0; place < RUNNING; place++)
        into[origin * stride + place]! +=
          end[origin * RUNNING + place]! - (known ? start[origin * RUNNING + place]! : 0);
    }
    return [first * this.blocksASum, isLast ? to : last * this.blocksASum];
  }

  /**
   * Shows every object that lives at one of two instants: born by then, and not known to have died by then. Looks at the
   * long-lived ones and at those born at most `boundMs` before either.
   */
  eachLiving(earlierMs: number, laterMs: number, see: (of: ObjectColumns, at: number) => void): void {
    this.update();
    const { boundMs } = this;
    for (const { col: long, from, to } of this.longLived(laterMs, earlierMs))
      for (let at = from; at < to; at++) {
        const [born, end] = [long.bornMs[at]!, long.endMs[at]!];
        if (!(end <= born + boundMs) && livesAtEither(born, end, earlierMs, laterMs)) see(long, at);
      }
    const { col } = this.recording.tables.objects;
    for (let block = 0; block < this.blocks; block++) {
      const [first, last] = this.birthsOf(block);
      const isNear = (tMs: number): boolean => first <= tMs && last >= tMs - boundMs;
      if (!isNear(earlierMs) && !isNear(laterMs)) continue;
      const [from, to] = this.rowsOf(block);
      for (let row = from; row < to; row++) {
        const [born, end] = [col.bornMs[row]!, col.endMs[row]!];
        if (end <= born + boundMs && livesAtEither(born, end, earlierMs, laterMs)) see(col, row);
      }
    }
  }

  /**
   * Stretches of the copies that may matter: born by `bornByMs` and followed until `endsFromMs` or later; with `lostToo`,
   * also where any was lost before.
   */
  longLived(bornByMs: number, endsFromMs: number, lostToo = false): LongLived[] {
    const parts: LongLived[] = [{ col: this.living.col, from: 0, to: this.living.length }];
    const { col, length } = this.ended;
    for (let block = 0; block < this.latestEnd.length; block++) {
      if (this.earliestBirth[block]! > bornByMs) continue;
      if (this.latestEnd[block]! < endsFromMs && !(lostToo && this.anyLost[block]!)) continue;
      parts.push({ col, from: block * ENDED_ROWS, to: Math.min(length, (block + 1) * ENDED_ROWS) });
    }
    return parts;
  }

  // Rows have moved where the recording was thinned.
  private isOutdated(): boolean {
    const { recording, boundMs } = this;
    if (recording.thinnings.length !== this.thinnings || this.boundRows === 0) return true;
    if (recording.tables.objects.length <= 2 * this.boundRows) return false;
    const { settleMs } = this;
    if (!(settleMs <= SAME_BOUND * boundMs && settleMs * SAME_BOUND >= boundMs)) return true;
    this.boundRows = recording.tables.objects.length;
    return false;
  }

  private restart(): void {
    this.boundRows = this.recording.tables.objects.length;
    this.thinnings = this.recording.thinnings.length;
    this.boundMs = this.settleMs;
    this.living = new GrowableTable(longSchema);
    this.ended = new GrowableTable(longSchema);
    this.earliestBirth = [];
    this.latestEnd = [];
    this.anyLost = [];
    this.inOrder = 0;
    this.rows = 0;
    this.firstBorn = [];
    this.lastBorn = [];
    this.before = [];
    this.blocksASum = 1;
    this.sumBytes = 0;
    this.running = new Float64Array(0);
  }

  private beginBlock(): void {
    if (this.blocks % this.blocksASum === 0) {
      this.before.push(this.running.slice());
      this.sumBytes += this.running.byteLength;
      while (this.sumBytes > MOST_SUM_BYTES && this.before.length > 1) this.keepFewerSums();
    }
    this.firstBorn.push(Infinity);
    this.lastBorn.push(-Infinity);
  }

  private keepFewerSums(): void {
    this.blocksASum *= 2;
    this.before = this.before.filter((_, at) => at % 2 === 0);
    this.sumBytes = this.before.reduce((sum, { byteLength }) => sum + byteLength, 0);
  }

  private putInOrder(): void {
    const { living } = this;
    if (living.length - this.inOrder < Math.max(LEAST_BEHIND, MOST_BEHIND_RATIO * living.length)) return;
    this.living = living.picked(
      orderByOrigin(living.col.originId, living.length, this.recording.tables.origins.length),
    );
    this.inOrder = living.length;
  }

  private takeRows(end: number): void {
    const { bornMs, endMs, lost, originId, sizeBytes, probability } = this.recording.tables.objects.col;
    const { running, boundMs } = this;
    const block = this.blocks - 1;
    let [first, last] = [this.firstBorn[block]!, this.lastBorn[block]!];
    for (let row = this.rows; row < end; row++) {
      const born = bornMs[row]!;
      if (born < first) first = born;
      if (born > last) last = born;
      const p = probability[row]!;
      const at = originId[row]! * RUNNING;
      running[at]! += estimatedBytes(sizeBytes[row]!, p);
      running[at + 1]! += p === 1 ? 0 : bytesVariance(sizeBytes[row]!, p);
      running[at + 2]! += 1 / p;
      running[at + 3]! += p === 1 ? 0 : countVariance(p);
      running[at + 4]!++;
      if (Number.isNaN(endMs[row]!)) this.copy(this.living, row);
      else if (endMs[row]! > born + boundMs || lost[row] === 1) this.takeEnded(row);
    }
    this.firstBorn[block] = first;
    this.lastBorn[block] = last;
    this.rows = end;
  }

  private takeEnded(row: number): void {
    const { bornMs, endMs, lost } = this.recording.tables.objects.col;
    const at = this.copy(this.ended, row);
    const block = Math.floor(at / ENDED_ROWS);
    if (at % ENDED_ROWS === 0) {
      this.earliestBirth.push(Infinity);
      this.latestEnd.push(-Infinity);
      this.anyLost.push(false);
    }
    this.earliestBirth[block] = Math.min(this.earliestBirth[block]!, bornMs[row]!);
    this.latestEnd[block] = Math.max(this.latestEnd[block]!, endMs[row]!);
    if (lost[row] === 1) this.anyLost[block] = true;
  }

  private copy(into: GrowableTable<typeof longSchema>, row: number): number {
    const { bornMs, endMs, lost, originId, sizeBytes, probability } = this.recording.tables.objects.col;
    const to = into.addRow();
    const { col } = into;
    col.row[to] = row;
    col.bornMs[to] = bornMs[row]!;
    col.endMs[to] = endMs[row]!;
    col.lost[to] = lost[row]!;
    col.sizeBytes[to] = sizeBytes[row]!;
    col.probability[to] = probability[row]!;
    col.originId[to] = originId[row]!;
    return to;
  }

  // What was followed at the last update may have ended since.
  private refreshEnds(): void {
    const { bornMs, endMs, lost } = this.recording.tables.objects.col;
    const { row: rows } = this.living.col;
    const { length } = this.living;
    const lives = new Uint8Array(length);
    let [living, inOrder] = [0, 0];
    for (let at = 0; at < length; at++) {
      const row = rows[at]!;
      if (Number.isNaN(endMs[row]!)) {
        lives[at] = 1;
        living++;
        if (at < this.inOrder) inOrder++;
      } else if (endMs[row]! > bornMs[row]! + this.boundMs || lost[row] === 1) this.takeEnded(row);
    }
    if (living === length) return;
    this.living.keepRows(lives);
    this.inOrder = inOrder;
  }
}

function extended(column: Float64Array, length: number): Float64Array<ArrayBuffer> {
  const next = new Float64Array(length);
  next.set(column);
  return next;
}

// An end that is NaN, of what is still followed, is not before anything.
function livesAtEither(born: number, end: number, earlierMs: number, laterMs: number): boolean {
  return (born <= earlierMs && !(end <= earlierMs)) || (born <= laterMs && !(end <= laterMs));
}

// Counted, then placed: equal ones stay in the order in which they stand.
function orderByOrigin(originId: Uint32Array, length: number, origins: number): Uint32Array {
  const next = new Uint32Array(origins + 1);
  for (let at = 0; at < length; at++) next[originId[at]! + 1]!++;
  for (let origin = 1; origin <= origins; origin++) next[origin]! += next[origin - 1]!;
  const places = new Uint32Array(length);
  for (let at = 0; at < length; at++) places[next[originId[at]!]!++] = at;
  return places;
}
