import { concatBytes } from '../../base/line-splitter.ts';

declare const TextDecoder: new () => { decode(bytes: Uint8Array): string };

/** What a scanner tells of the members of a snapshot, in the order they come. */
export interface SnapshotEvents {
  /** The member that describes the others, as its JSON text. */
  onMeta(json: string): void;
  onNumber(list: 'nodes' | 'edges', value: number): void;
  /** True when the string at this place is wanted. */
  wants(place: number): boolean;
  onString(place: number, json: string): void;
}

const [QUOTE, BACKSLASH, COMMA, MINUS, ZERO, NINE] = [0x22, 0x5c, 0x2c, 0x2d, 0x30, 0x39];
const [OPEN, CLOSE, OPEN_LIST, CLOSE_LIST] = [0x7b, 0x7d, 0x5b, 0x5d];
/** A string longer than this is nobody's name: its beginning is told. */
const MOST_STRING_BYTES = 4096;

type State = 'outside' | 'value' | 'text' | 'numbers' | 'strings' | 'string' | 'skipped';

/**
 * Takes a V8 heap snapshot apart byte by byte, in chunks cut anywhere: it is one JSON object, larger than can be parsed
 * as one, whose strings come last.
 */
export class SnapshotScanner {
  private readonly events: SnapshotEvents;
  private readonly decoder = new TextDecoder();
  private state: State = 'outside';
  private key = '';
  /** Bytes of a key, string or description that is under way in earlier chunks. */
  private parts: Uint8Array[] = [];
  private partBytes = 0;
  private depth = 0;
  private inString = false;
  private escaped = false;
  private number = -1;
  private isNegative = false;
  private place = 0;
  private isClosed = false;

  constructor(events: SnapshotEvents) {
    this.events = events;
  }

  /** True once the object and all its members ended. */
  get isWhole(): boolean {
    return this.isClosed;
  }

  write(chunk: Uint8Array): void {
    let at = 0;
    while (at < chunk.length) {
      switch (this.state) {
        case 'outside':
        case 'value':
          at = this.between(chunk, at);
          break;
        case 'numbers':
          at = this.numbers(chunk, at);
          break;
        case 'strings':
          at = this.strings(chunk, at);
          break;
        case 'string':
          at = this.text(chunk, at);
          break;
        case 'text':
        case 'skipped':
          at = this.nested(chunk, at);
          break;
      }
    }
  }

  // Between members: a key, or the value behind it.
  private between(chunk: Uint8Array, from: number): number {
    const byte = chunk[from]!;
    if (this.state === 'outside') {
      if (byte === QUOTE) this.begin('string');
      else if (byte === CLOSE) this.isClosed = true;
      return from + 1;
    }
    if (byte === OPEN_LIST && (this.key === 'nodes' || this.key === 'edges')) this.state = 'numbers';
    else if (byte === OPEN_LIST && this.key === 'strings') this.state = 'strings';
    else if (byte === OPEN || byte === OPEN_LIST) {
      this.begin(this.key === 'snapshot' ? 'text' : 'skipped');
      return from;
    } else if (byte === COMMA) this.state = 'outside';
    else if (byte === CLOSE) this.isClosed = true;
    return from + 1;
  }

  private begin(state: State): void {
    this.state = state;
    this.parts = [];
    this.partBytes = 0;
    this.depth = 0;
    this.inString = this.escaped = false;
  }

  private numbers(chunk: Uint8Array, from: number): number {
    const list = this.key as 'nodes' | 'edges';
    let number = this.number;
    for (let at = from; at < chunk.length; at++) {
      const byte = chunk[at]!;
      if (byte >= ZERO && byte <= NINE) {
        number = number < 0 ? byte - ZERO : number * 10 + byte - ZERO;
        continue;
      }
      if (number >= 0) {
        this.events.onNumber(list, this.isNegative ? -number : number);
        number = -1;
        this.isNegative = false;
      }
      if (byte === MINUS) this.isNegative = true;
      if (byte === CLOSE_LIST) {
        this.number = -1;
        this.state = 'outside';
        return at + 1;
      }
    }
    this.number = number;
    return chunk.length;
  }

  private strings(chunk: Uint8Array, from: number): number {
    const byte = chunk[from]!;
    if (byte === QUOTE) this.begin('string');
    else if (byte === CLOSE_LIST) {
      this.key = '';
      this.state = 'outside';
    }
    return from + 1;
  }

  // A key, or one of the strings; what is not wanted is gone over.
  private text(chunk: Uint8Array, from: number): number {
    const isWanted = this.key !== 'strings' || this.events.wants(this.place);
    let at = from;
    for (; at < chunk.length; at++) {
      const byte = chunk[at]!;
      if (this.escaped) this.escaped = false;
      else if (byte === BACKSLASH) this.escaped = true;
      else if (byte === QUOTE) break;
    }
    if (isWanted) this.keep(chunk.subarray(from, at));
    if (at === chunk.length) return at;
    if (this.key !== 'strings') {
      this.key = this.kept();
      this.state = 'value';
    } else {
      if (isWanted) this.events.onString(this.place, this.kept());
      this.place++;
      this.state = 'strings';
    }
    return at + 1;
  }

  private keep(bytes: Uint8Array): void {
    const room = this.state === 'text' ? Infinity : MOST_STRING_BYTES - this.partBytes;
    if (room <= 0 || bytes.length === 0) return;
    const kept = bytes.length > room ? bytes.subarray(0, room) : bytes;
    this.parts.push(kept.slice());
    this.partBytes += kept.length;
  }

  private kept(): string {
    return this.parts.length === 0 ? '' : this.decoder.decode(concatBytes(this.parts));
  }

  // An object or list with all that is in it.
  private nested(chunk: Uint8Array, from: number): number {
    for (let at = from; at < chunk.length; at++) {
      const byte = chunk[at]!;
      if (this.escaped) this.escaped = false;
      else if (this.inString) {
        if (byte === BACKSLASH) this.escaped = true;
        else if (byte === QUOTE) this.inString = false;
      } else if (byte === QUOTE) this.inString = true;
      else if (byte === OPEN || byte === OPEN_LIST) this.depth++;
      else if ((byte === CLOSE || byte === CLOSE_LIST) && --this.depth === 0) {
        if (this.state === 'text') {
          this.keep(chunk.subarray(from, at + 1));
          this.events.onMeta(this.kept());
        }
        this.state = 'outside';
        return at + 1;
      }
    }
    if (this.state === 'text') this.keep(chunk.subarray(from));
    return chunk.length;
  }
}
