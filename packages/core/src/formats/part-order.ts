import { Decorations, findDecorations } from './jvm-unified/decorations.ts';
import { readTraceLine } from './v8-trace/trace-line.ts';

/**
 * Order in which the parts of one rotated log follow each other, by the first clock reading in each: indices into
 * `heads`, the first text of every part. Parts without a clock keep their place after the others.
 */
export function orderParts(heads: readonly string[]): number[] {
  const stamps = heads.map(firstStamp);
  return heads.map((_, part) => part).sort((a, b) => compareStamps(stamps[a]!, stamps[b]!) || a - b);
}

function compareStamps(a: number, b: number): number {
  if (Number.isNaN(a) || Number.isNaN(b)) return Number(Number.isNaN(a)) - Number(Number.isNaN(b));
  return a - b;
}

function firstStamp(head: string): number {
  const decorations = new Decorations();
  for (const line of head.split('\n')) {
    const at = line.startsWith('[') ? 0 : findDecorations(line);
    if (at >= 0 && decorations.read(line, at)) {
      const stamp = Number.isNaN(decorations.uptimeMs) ? decorations.epochMs : decorations.uptimeMs;
      if (!Number.isNaN(stamp)) return stamp;
    }
    const trace = readTraceLine(line);
    if (trace !== null) return trace.stampMs;
  }
  return NaN;
}
