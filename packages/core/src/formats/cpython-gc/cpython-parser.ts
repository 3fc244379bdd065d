import { snippet } from '../../base/issues.ts';
import { Scope } from '../../model/tables.ts';
import { CPYTHON } from '../../runtimes/cpython.ts';
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
    this.log = new LineLog('cpython-gc', { runtime: 'CPython', traits: CPYTHON }, (line, number, offset) =>
      this.take(line, number, offset),
    );
    this.log.recording.collector = 'cyclic';
    this.log.recording.hasClock = false;
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
      const pauseMs = Math.round(Number(done[3]) * 1e4) / 10;
      // Without a clock, the least time that must have passed orders the collections.
      const startMs = this.log.recording.durationMs;
      const whole = this.generation === OLDEST;
      if (!this.log.refuses({ startMs, endMs: startMs + pauseMs, pauseMs }, number, offset))
        this.log.add({
          startMs,
          endMs: startMs + pauseMs,
          pauseMs,
          label: `generation ${this.generation}`,
          cause: '',
          scope: whole ? Scope.whole : Scope.young,
          flags: 0,
          line: number,
        });
    }
    this.generation = null;
  }
}
