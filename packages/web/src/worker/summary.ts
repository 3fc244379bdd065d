import { overviewOf, overviewSentence, runPoints, type Study, usedStrip, WHOLE_SIDE } from '@brisk-heron/core';
import type { RecordingRow } from '../db/heron-db.ts';

const STRIP_SLICES = 80;

/** What the list tells of a recording: that of its last run. */
export function summaryOf(
  study: Study,
): Pick<RecordingRow, 'program' | 'runtime' | 'durationMs' | 'verdictKind' | 'sentence' | 'strip' | 'runs'> {
  const side = study.side(WHOLE_SIDE);
  const { recording } = side;
  const overview = overviewOf(side.subject, side.look());
  return {
    program: recording.program,
    runtime: [recording.runtime, recording.collector].filter((text) => text !== '').join(', '),
    durationMs: recording.durationMs,
    verdictKind: overview.verdict,
    sentence: overviewSentence(overview),
    strip: usedStrip(recording, STRIP_SLICES),
    runs: runPoints(study),
  };
}
