import { binExtremes, usedSeries, wholeSpan, type Recording } from '@brisk-heron/core';
import type { RecordingRow } from '../db/heron-db.ts';
import { Evidence } from './answers/evidence.ts';
import { overviewOf, overviewSentence } from './answers/overview.ts';

const STRIP_SLICES = 80;

/** What the list tells of a recording, worked out from its columns. */
export function summaryOf(
  recording: Recording,
  evidence = new Evidence(recording),
): Pick<RecordingRow, 'program' | 'runtime' | 'durationMs' | 'verdictKind' | 'sentence' | 'strip'> {
  const overview = overviewOf(evidence);
  const used = usedSeries(recording);
  const { high } = binExtremes(used.tMs, used.bytes, wholeSpan(recording), STRIP_SLICES);
  return {
    program: recording.program,
    runtime: [recording.runtime, recording.collector].filter((text) => text !== '').join(', '),
    durationMs: recording.durationMs,
    verdictKind: overview.verdict,
    sentence: overviewSentence(overview),
    strip: Array.from(high, (bytes) => (Number.isFinite(bytes) ? bytes : 0)),
  };
}
