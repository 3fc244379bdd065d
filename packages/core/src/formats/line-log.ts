import type { HeapId } from '../base/ids.ts';
import { type LineBatch, plainEnd } from '../base/line-batch.ts';
import { LineSplitter } from '../base/line-splitter.ts';
import { isPause, isTime } from '../model/domain.ts';
import { Recording, type SourceFormat } from '../model/recording.ts';
import type { RuntimeTraits } from '../model/runtime-traits.ts';
import type { ScopeCode } from '../model/tables.ts';
import type { FormatParser } from './log-parser.ts';
import { unwrapLine } from './unwrap-line.ts';

/** One collection of a log, with the pause it made. Sizes in bytes, NaN where the log has none. */
export interface LoggedCollection {
  readonly startMs: number;
  /** End of the collection; its pause begins with it and may be shorter. */
  readonly endMs: number;
  readonly pauseMs: number;
  readonly label: string;
  readonly cause: string;
  readonly scope: ScopeCode;
  /** `CollectionFlag`s. */
  readonly flags: number;
  readonly line: number;
}

/**
 * Reads a line of the commonest kind from its bytes in [from, to), without its end; false for one that is left to be
 * read as a text.
 */
export type TakeBytes = (batch: LineBatch, from: number, to: number, number: number, offset: number) => boolean;

const RETURN = 13;

/** A log of one heap that is read line by line: the recording it fills, and what every such format does alike. */
export class LineLog implements FormatParser {
  readonly recording: Recording;
  readonly heapId: HeapId;
  private readonly splitter: LineSplitter;
  private byteOffset = NaN;

  /** `take` gets each line with its number from 1 and its byte offset, but for those that `takeBytes` read. */
  constructor(
    format: SourceFormat,
    { runtime, traits }: { readonly runtime: string; readonly traits: RuntimeTraits },
    take: (line: string, number: number, offset: number) => void,
    takeBytes?: TakeBytes,
  ) {
    this.recording = new Recording(format);
    this.recording.runtime = runtime;
    this.heapId = this.recording.addHeap('main', traits);
    this.splitter = new LineSplitter(
      (line, number, offset) => {
        this.byteOffset = offset;
        take(unwrapLine(line), number, offset);
      },
      {
        encoding: 'windows-1252',
        takeWithin:
          takeBytes === undefined
            ? undefined
            : (batch, from, number, offset) => {
                this.byteOffset = offset;
                const stop = plainEnd(batch, from);
                if (stop < 0) return -1;
                const to = stop > from && batch.bytes[stop - 1] === RETURN ? stop - 1 : stop;
                return takeBytes(batch, from, to, number, offset) ? stop : -1;
              },
        onLong: (line, byteOffset) =>
          this.issue(
            'line-too-long',
            line,
            byteOffset,
            'expected lines of at most 4 MiB; the rest of this one was dropped',
          ),
      },
    );
  }

  get runs(): readonly Recording[] {
    return this.recording.tables.collections.length > 0 ? [this.recording] : [];
  }

  write(chunk: Uint8Array): void {
    this.splitter.write(chunk);
    this.count();
  }

  end(): void {
    this.splitter.end();
    this.count();
    this.recording.ended = true;
  }

  /** True, with an issue, where a collection is told with times that no program has: it is left out. */
  refuses(
    { startMs, endMs, pauseMs }: Pick<LoggedCollection, 'startMs' | 'endMs' | 'pauseMs'>,
    line: number,
    byteOffset: number,
  ): boolean {
    const refused = !isTime(startMs) || !isTime(endMs) || !isPause(pauseMs) || !isPause(endMs - startMs);
    if (refused)
      this.issue(
        'absurd-time',
        line,
        byteOffset,
        'expected times within ten years of the beginning and a collection of at most a day; is the line damaged? It was left out',
      );
    return refused;
  }

  /** Adds the rows of a collection and its pause; answers the collection's row. */
  add(each: LoggedCollection): number {
    const { collections, pauses } = this.recording.tables;
    const row = collections.addRow();
    const { col } = collections;
    col.startMs[row] = each.startMs;
    col.endMs[row] = each.endMs;
    col.labelId[row] = this.recording.intern(each.label);
    col.causeId[row] = this.recording.intern(each.cause);
    col.line[row] = each.line;
    col.byteOffset[row] = this.byteOffset;
    col.heapId[row] = this.heapId;
    col.scope[row] = each.scope;
    col.flags[row] = each.flags;
    const pause = pauses.addRow();
    pauses.col.startMs[pause] = each.startMs;
    pauses.col.durationMs[pause] = each.pauseMs;
    pauses.col.collectionRow[pause] = row;
    pauses.col.labelId[pause] = col.labelId[row]!;
    pauses.col.causeId[pause] = col.causeId[row]!;
    pauses.col.line[pause] = each.line;
    pauses.col.heapId[pause] = this.heapId;
    pauses.col.scope[pause] = each.scope;
    this.recording.reach(each.endMs);
    return row;
  }

  /** Adds used memory at an instant. */
  addUsed(tMs: number, usedBytes: number): void {
    const { sizes } = this.recording.tables;
    const row = sizes.addRow();
    sizes.col.tMs[row] = tMs;
    sizes.col.usedBytes[row] = usedBytes;
    sizes.col.heapId[row] = this.heapId;
  }

  issue(code: string, line: number, byteOffset: number, message: string): void {
    this.recording.issues.add({ code, line, byteOffset, message: `gc log line ${line}: ${message}` });
  }

  private count(): void {
    this.recording.bytes = this.splitter.bytes;
    this.recording.lines = this.splitter.lines;
  }
}
