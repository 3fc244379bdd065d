import { concatBytes } from '../base/line-splitter.ts';
import { forgetAbsurdSizes } from '../model/domain.ts';
import type { Recording } from '../model/recording.ts';
import { MOST_OBJECTS } from '../model/thin-objects.ts';
import type { Format, FormatParser } from './log-parser.ts';
import { BlockCheck } from './recording-file/block-check.ts';
import {
  isRecordingHeader,
  MAX_HEADER_BYTES,
  readRecordingHeader,
  type RecordingHeader,
} from './recording-file/container.ts';
import { missingOfExport } from './recording-file/missing.ts';
import { unwrapLine } from './unwrap-line.ts';
import { detectFormat, FORMATS_IN_WORDS } from './registry.ts';
import type { SourceShape } from './source-text.ts';
import { detectWideText, NarrowText } from './text-encoding.ts';

/** Bytes looked at before the format must be known. Chatter of a program may come before its first collection. */
const DETECT_BYTES = 4 * 1024 * 1024;
/** Bytes that tell how a text is encoded. */
const ENCODING_BYTES = 64;
const FIRST_LOOK_BYTES = 64 * 1024;

interface Decoder {
  decode(bytes: Uint8Array): string;
}
declare const TextDecoder: new (label: string) => Decoder;

/** What came of reading an input: its runs (the last is the default), or why there is none. */
export type ReadResult =
  | { readonly ok: true; readonly runs: readonly Recording[] }
  | {
      readonly ok: false;
      readonly code: 'empty-input' | 'unknown-format' | 'bad-header' | 'several-runs';
      readonly message: string;
    };

// Of whole lines; the last one is whole only at the end.
function formatOf(head: Uint8Array, isWhole: boolean): Format | null {
  const text = new TextDecoder('windows-1252').decode(head).replaceAll('\u0000', '');
  const lines = text.split(/\r?\n/);
  if (!isWhole && lines.length > 1) lines.pop();
  return detectFormat(lines.filter((line) => line.trim() !== '').map(unwrapLine));
}

/**
 * Reads any known format, told by its content. Bytes are held until the format is known (at most 4 MiB), then passed
 * on; chunks may be cut anywhere.
 */
export class InputReader {
  private held: Uint8Array[] = [];
  private heldBytes = 0;
  private nextLookBytes = FIRST_LOOK_BYTES;
  private parser: FormatParser | null = null;
  private badHeader = '';
  private inputBytes = 0;
  private markBytes = 0;
  private beginning: Uint8Array = new Uint8Array(0);
  /** Undefined until the first bytes tell how the text is encoded; null for one byte a character. */
  private wide: NarrowText | null | undefined = undefined;
  private sums: BlockCheck | null = null;
  /** How many bytes will come, where that is known: what they fill then finds its room at once. */
  expectedBytes = 0;
  /** Header of an exported recording; null when the input is none, or not known yet. */
  header: RecordingHeader | null = null;

  /** Runs known so far. */
  get runs(): readonly Recording[] {
    return this.parser?.runs ?? [];
  }

  /** Takes the next chunk; it may be kept, so the caller must not change it. */
  write(chunk: Uint8Array): void {
    this.inputBytes += chunk.length;
    const text = this.plain(chunk, false);
    if (text.length > 0) this.take(text);
  }

  // The text of a chunk, a byte a character. Until the encoding is known, nothing is handed on.
  private plain(chunk: Uint8Array, atEnd: boolean): Uint8Array {
    if (this.wide === undefined) {
      const head = this.beginning.length === 0 ? chunk : concatBytes([this.beginning, chunk]);
      if (head.length < ENCODING_BYTES && !atEnd) {
        this.beginning = head.slice();
        return new Uint8Array(0);
      }
      this.beginning = new Uint8Array(0);
      const found = detectWideText(head);
      this.wide = found === null ? null : new NarrowText(found.littleEndian);
      const mark = found === null && head[0] === 0xef && head[1] === 0xbb && head[2] === 0xbf ? 3 : (found?.skip ?? 0);
      this.markBytes = mark;
      const text = head.subarray(mark);
      return this.wide === null ? text : this.wide.narrow(text);
    }
    return this.wide === null ? chunk : this.wide.narrow(chunk);
  }

  // As many objects a byte as so far.
  private makeRoom(): void {
    if (this.expectedBytes <= this.inputBytes) return;
    const objects = this.runs.at(-1)?.tables.objects;
    objects?.expect(Math.min(MOST_OBJECTS, Math.ceil((objects.length * this.expectedBytes) / this.inputBytes)));
  }

  private take(given: Uint8Array): void {
    const chunk = this.sums === null ? given : this.sums.take(given);
    if (chunk.length === 0) return;
    if (this.parser !== null) {
      this.parser.write(chunk);
      this.makeRoom();
      return;
    }
    this.heldBytes += chunk.length;
    if (this.heldBytes - chunk.length > DETECT_BYTES) return;
    this.held.push(chunk);
    if (this.heldBytes >= this.nextLookBytes && this.heldBytes <= DETECT_BYTES) {
      this.nextLookBytes = this.heldBytes * 4;
      this.detect(false);
    }
  }

  /** How the text lies in the bytes that came so far. */
  get shape(): SourceShape {
    return {
      bytes: this.inputBytes,
      markBytes: this.markBytes,
      isWide: this.wide !== null && this.wide !== undefined,
      littleEndian: this.wide?.littleEndian ?? false,
    };
  }

  /** A live input may be short: looks at what came so far, however little. */
  lookNow(): void {
    this.flushBeginning();
    if (this.parser === null) this.detect(false);
    for (const run of this.runs) forgetAbsurdSizes(run);
  }

  private flushBeginning(): void {
    const text = this.wide === undefined ? this.plain(new Uint8Array(0), true) : new Uint8Array(0);
    if (text.length > 0) this.take(text);
  }

  end(): ReadResult {
    this.flushBeginning();
    if (this.parser === null) this.detect(true);
    if (this.parser === null) return this.unusable();
    this.parser.end();
    const { runs } = this.parser;
    for (const run of runs) {
      forgetAbsurdSizes(run);
      run.missing = this.missing();
    }
    return runs.length > 0 ? { ok: true, runs } : this.unusable();
  }

  private detect(atEnd: boolean): void {
    if (this.header === null && !this.stripHeader()) return;
    const head = concatBytes(this.held);
    const most = Math.min(head.length, DETECT_BYTES);
    // However much came at once, the first lines decide where they can.
    for (let bytes = Math.min(FIRST_LOOK_BYTES, most); ; bytes = Math.min(bytes * 4, most)) {
      const format = formatOf(head.subarray(0, bytes), atEnd && bytes === head.length);
      if (format !== null) {
        this.parser = format.createParser();
        this.held = [];
        this.parser.write(head);
      }
      if (format !== null || bytes === most) return;
    }
  }

  // Answers false while the header of an exported recording is not whole, or is unusable.
  private stripHeader(): boolean {
    const head = concatBytes(this.held);
    const start = new TextDecoder('utf-8').decode(head.subarray(0, 64));
    if (!isRecordingHeader(start)) return true;
    const end = head.subarray(0, MAX_HEADER_BYTES).indexOf(10);
    if (end < 0) return false;
    const check = readRecordingHeader(new TextDecoder('utf-8').decode(head.subarray(0, end)));
    if (!check.ok) {
      this.badHeader = check.why;
      return false;
    }
    this.header = check.header;
    if (check.header.sums !== undefined) this.sums = new BlockCheck(check.header.sums);
    const rest = head.subarray(end + 1);
    this.held = [this.sums === null ? rest : this.sums.take(rest)];
    return true;
  }

  // What of an exported recording is not good.
  private missing(): string {
    const missing = this.header?.missing ?? '';
    return this.sums === null || this.sums.missingBytes === 0
      ? missing
      : missingOfExport(this.sums.goodBytes, this.sums.goodBytes + this.sums.missingBytes);
  }

  private unusable(): ReadResult {
    if (this.badHeader !== '') return { ok: false, code: 'bad-header', message: this.badHeader };
    if (this.sums !== null && this.sums.goodBytes === 0 && this.sums.missingBytes > 0)
      return {
        ok: false,
        code: 'bad-header',
        message: 'the exported recording is damaged from its beginning: export it again where it came from',
      };
    if (this.heldBytes === 0 && this.parser === null) {
      return { ok: false, code: 'empty-input', message: `the file is empty: expected ${FORMATS_IN_WORDS}` };
    }
    return {
      ok: false,
      code: 'unknown-format',
      message: `no collection and no recording was found in it: expected ${FORMATS_IN_WORDS}; was the program started with the option that prints it?`,
    };
  }
}
