import { checkStreamLine } from '@brisk-heron/core';

/** What was found in a batch of lines. */
export interface BatchCheck {
  /** Bytes up to the end of the last whole line. */
  readonly wholeBytes: number;
  readonly lines: number;
  readonly badLines: number;
  /** Why the first bad line is bad; '' when none is. */
  readonly firstProblem: string;
  /** The first line when it is a hello, for the list of recordings. */
  readonly hello: { readonly program: string; readonly runtime: string; readonly epochMs: number } | null;
}

/** Checks a batch of the open stream line by line. Bad lines are counted and kept: a reader leaves them out again. */
export function checkBatch(batch: Buffer): BatchCheck {
  const wholeBytes = batch.lastIndexOf(10) + 1;
  let lines = 0;
  let badLines = 0;
  let firstProblem = '';
  let hello: BatchCheck['hello'] = null;
  for (const text of batch.subarray(0, wholeBytes).toString('utf8').split('\n')) {
    if (text.trim() === '') continue;
    lines++;
    const check = checkStreamLine(text);
    if (!check.ok) {
      badLines++;
      if (firstProblem === '') firstProblem = `line ${lines} of the batch: ${check.why}`;
    } else if (hello === null && check.line.k === 'hello') {
      const { program, runtime, epochMs } = check.line;
      hello = { program, runtime, epochMs };
    }
  }
  return { wholeBytes, lines, badLines, firstProblem, hello };
}
