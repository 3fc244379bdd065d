import type { MeasureAsk, MeasureName, SideAsk, Span } from '@brisk-heron/core';
import type { Asking } from './question.ts';

/** An answer that comes sooner needs no head start. */
const WORTH_MS = 60;

/**
 * Asks for a view's first answer at a span that is about to be chosen. The answer is dropped: the worker remembers what
 * it worked out, and answers at once when the span is chosen. One at a time, and only where answers take long.
 */
export function aheadAsker() {
  let first: ((side: SideAsk) => Promise<unknown>) | null = null;
  /** What an answer takes, by the last one of a span that had not been asked about before. */
  let tookMs = Infinity;
  const known = new Set<string>();
  let isAsking = false;

  /** The same asking, of which the first measure that a view asks is remembered. */
  function noting(asking: Asking): Asking {
    first = null;
    const key = JSON.stringify(asking.side);
    const isNewSpan = asking.side.extent?.kind === 'span' && !known.has(key);
    known.add(key);
    return {
      ...asking,
      measure: async <M extends MeasureName>(measure: M, ask: MeasureAsk<M>) => {
        if (first !== null) return asking.measure(measure, ask);
        first = (side) => asking.measureOf(side, measure, ask);
        const fromMs = performance.now();
        const answer = await asking.measure(measure, ask);
        if (isNewSpan) tookMs = performance.now() - fromMs;
        return answer;
      },
    };
  }

  /** A span of the whole of a side may be chosen soon. */
  function expect(wholeSide: SideAsk, { fromMs, toMs }: Span): void {
    const side: SideAsk = { ...wholeSide, extent: { kind: 'span', fromMs, toMs } };
    const key = JSON.stringify(side);
    if (first === null || isAsking || tookMs < WORTH_MS || known.has(key)) return;
    known.add(key);
    isAsking = true;
    void first(side)
      .catch(() => undefined)
      .finally(() => {
        isAsking = false;
      });
  }

  function reset(): void {
    first = null;
    tookMs = Infinity;
    isAsking = false;
    known.clear();
  }

  return { noting, expect, reset };
}
