import type { Span } from '../base/span.ts';
import type { Recording } from './recording.ts';

/** The whole recording as a span. */
export function wholeSpan(recording: Pick<Recording, 'durationMs'>): Span {
  return { fromMs: 0, toMs: recording.durationMs };
}
