import type { Recording } from '@brisk-heron/core';
import { eventsArrow, pathsArrow } from '@brisk-heron/core/events-arrow';
import type { Progress } from './progress.ts';

/** A recording's events and call paths as Arrow files. */
export interface EventFiles {
  readonly events: Blob;
  readonly paths: Blob;
}

const TYPE = 'application/vnd.apache.arrow.file';

/** Writes the files, letting other questions in after each batch; null when it was stopped. */
export async function eventFiles(
  recording: Recording,
  onProgress: (progress: Progress) => void,
  isStopped: () => boolean,
): Promise<EventFiles | null> {
  const pieces: Blob[] = [];
  const onRows = async (rows: number, of: number): Promise<void> => {
    onProgress({
      doing: 'Writing the events',
      doneRatio: rows / Math.max(1, of),
      doneBytes: pieces.reduce((sum, piece) => sum + piece.size, 0),
      totalBytes: NaN,
    });
    await new Promise((turn) => setTimeout(turn));
  };
  for await (const piece of eventsArrow(recording, onRows)) {
    if (isStopped()) return null;
    // A blob may be kept outside of memory by the browser; an array may not.
    pieces.push(new Blob([piece]));
  }
  return { events: new Blob(pieces, { type: TYPE }), paths: new Blob(pathsArrow(recording), { type: TYPE }) };
}
