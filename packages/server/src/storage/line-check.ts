import { setImmediate as nextTurn } from 'node:timers/promises';
import { checkStreamLine } from '@brisk-heron/core';

/** What was found in a batch of lines. */
export interface BatchCheck {
  readonly lines: number;
  readonly badLines: number;
  /** Lines that were kept and not looked at: very long ones, and what came after very many bad ones. */
  readonly uncheckedLines: number;
  /** Why the first bad line is bad; '' when none is. */
  readonly firstProblem: string;
  /** The first line that is a hello, for the list of recordings. */
  readonly hello: { readonly program: string; readonly runtime: string; readonly epochMs: number } | null;
}

/** Others are answered at least this often while a batch is checked. */
const SLICE_MS = 10;
/** A longer line takes too long to be looked at in one go. */
const MOST_CHECKED_BYTES = 1024 * 1024;
/** What sends so many bad lines in one batch is no recorder: to look at more tells nothing new. */
const MOST_BAD_LINES = 1000;

/**
 * Checks the whole lines of a batch of the open stream, in slices of time. Bad lines are counted and kept: a reader
 * leaves them out again. An unfinished last line is not looked at.
 */
export async function checkBatch(batch: Buffer): Promise<BatchCheck> {
  const found = { lines: 0, badLines: 0, uncheckedLines: 0, firstProblem: '', hello: null as BatchCheck['hello'] };
  let sliceEnd = performance.now() + SLICE_MS;
  for (let from = 0; from < batch.length;) {
    const end = batch.indexOf(10, from);
    if (end < 0) break;
    checkOne(batch, from, end, found);
    from = end + 1;
    if (performance.now() > sliceEnd) {
      await nextTurn();
      sliceEnd = performance.now() + SLICE_MS;
    }
  }
  return found;
}

function checkOne(
  batch: Buffer,
  from: number,
  end: number,
  found: { lines: number; badLines: number; uncheckedLines: number; firstProblem: string; hello: BatchCheck['hello'] },
): void {
  if (end === from) return;
  if (end - from > MOST_CHECKED_BYTES || found.badLines >= MOST_BAD_LINES) {
    found.lines++;
    found.uncheckedLines++;
    return;
  }
  const text = batch.toString('utf8', from, end);
  if (text.trim() === '') return;
  found.lines++;
  const check = checkStreamLine(text);
  if (!check.ok) {
    found.badLines++;
    if (found.firstProblem === '') found.firstProblem = `line ${found.lines} of the batch: ${check.why}`;
  } else if (found.hello === null && check.line.k === 'hello') {
    const { program, runtime, epochMs } = check.line;
    found.hello = { program, runtime, epochMs };
  }
}
