import type { LineBatch } from '../../base/line-batch.ts';
import { snippet } from '../../base/issues.ts';
import { Scope } from '../../model/tables.ts';
import { CPYTHON } from '../../runtimes/cpython.ts';
import { ByteTemplate } from '../byte-template.ts';
import { ascii, findWord, standsAt } from '../byte-text.ts';
import { LineLog } from '../line-log.ts';
import type { Format } from '../log-parser.ts';

/** CPython's `gc.set_debug(gc.DEBUG_STATS)`. */
export const cpythonGc: Format = {
  name: 'cpython-gc',
  words: 'CPython gc.DEBUG_STATS lines',
  runtime: CPYTHON,
  detect: (headLines) =>
    headLines.filter((line) => BEGIN.test(line) || DONE.test(line) || /^gc: objects in /.test(line)).length /
    Math.max(1, headLines.length),
  createParser: () => {
    const reader = new CpythonReader();
    return reader.log;
  },
};

const BEGIN = /gc: collecting generation (\d+)\.\.\.\s*$/;
const DONE = /gc: done(?:, (\d+) unreachable, (\d+) uncollectable)?, (\d+\.\d{4})s elapsed\s*$/;
/** The same in bytes. The time has four digits behind its dot. */
const GC = ascii('gc: ');
const COLLECTING = ascii('gc: collecting');
const DONE_WORD = ascii('gc: done');
const ELAPSED = ascii('s elapsed');
const BEGIN_BYTES = new ByteTemplate('gc: collecting generation %d...');
/** Of a line without its number. */
const BEGIN_LETTERS = 'gc: collecting generation ...'.length;
const DONE_COUNTED = new ByteTemplate('gc: done, %d unreachable, %d uncollectable, %fs elapsed');
const DONE_ALONE = new ByteTemplate('gc: done, %fs elapsed');
const DECIMALS = 4;
const DOT = 46;
/** The last generation is the whole heap. */
const OLDEST = '2';

/**
 * Four lines a collection, without a clock or sizes: which generation, how many objects each has, and at its end how
 * long it took, in tenths of a millisecond.
 */
class CpythonReader {
  readonly log: LineLog;
  /** Generation of the collection under way; null between collections. */
  private generation: string | null = null;

  constructor() {
    this.log = new LineLog(
      'cpython-gc',
      { runtime: 'CPython', traits: CPYTHON },
      (line, number, offset) => this.take(line, number, offset),
      (batch, from, to, number, offset) => this.takeBytes(batch, { from, to }, number, offset),
    );
    this.log.recording.collector = 'cyclic';
    this.log.recording.hasClock = false;
  }

  // A line that the collector printed alone: of those that tell what it looked at nothing is read.
  private takeBytes(
    letters: LineBatch,
    { from, to }: { readonly from: number; readonly to: number },
    number: number,
    offset: number,
  ): boolean {
    const { view, bytes } = letters;
    if (!standsAt(view, from, GC) || findWord(view, from + GC.length, to, GC) >= 0) return false;
    if (BEGIN_BYTES.fits(letters, from)) {
      const generation = String(BEGIN_BYTES.values[0]!);
      if (BEGIN_BYTES.end !== to || from + BEGIN_LETTERS + generation.length !== to) return false;
      this.generation = generation;
      return true;
    }
    if (!standsAt(view, from, DONE_WORD)) return !standsAt(view, from, COLLECTING);
    const done = DONE_COUNTED.fits(letters, from) ? DONE_COUNTED : DONE_ALONE.fits(letters, from) ? DONE_ALONE : null;
    const seconds = done?.values[done.values.length - 1] ?? NaN;
    const dotAt = to - ELAPSED.length - DECIMALS - 1;
    if (done === null || done.end !== to || bytes[dotAt] !== DOT || this.generation === null) return false;
    this.add(seconds, number, offset);
    this.generation = null;
    return true;
  }

  private take(line: string, number: number, offset: number): void {
    const begin = BEGIN.exec(line);
    if (begin !== null) {
      this.generation = begin[1]!;
      return;
    }
    if (!line.includes('gc: done')) return;
    const done = DONE.exec(line);
    if (done === null || this.generation === null) {
      const wanted =
        done === null
          ? '"gc: done, … unreachable, … uncollectable, …s elapsed"'
          : '"gc: collecting generation …" before its end';
      this.log.issue(
        'cut-line',
        number,
        offset,
        `expected ${wanted}, found ${snippet(line)}; is the log cut off? The collection was left out`,
      );
    } else {
      this.add(Number(done[3]), number, offset);
    }
    this.generation = null;
  }

  private add(seconds: number, number: number, offset: number): void {
    const pauseMs = Math.round(seconds * 1e4) / 10;
    // Without a clock, the least time that must have passed orders the collections.
    const startMs = this.log.recording.durationMs;
    if (this.log.refuses({ startMs, endMs: startMs + pauseMs, pauseMs }, number, offset)) return;
    this.log.add({
      startMs,
      endMs: startMs + pauseMs,
      pauseMs,
      label: `generation ${this.generation}`,
      cause: '',
      scope: this.generation === OLDEST ? Scope.whole : Scope.young,
      flags: 0,
      line: number,
    });
  }
}
