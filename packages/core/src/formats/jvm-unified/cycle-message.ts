import { NumberScanner, unitBytes } from '../scan-number.ts';
import type { Release } from './concurrent-cycles.ts';

const scanner = new NumberScanner();

/**
 * True for the beginning or end of a ZGC collection: `Garbage Collection (Warmup)`, `Major Collection (System.gc())
 * 26M(20%)->18M(14%) 0.028s`.
 */
export function isZCycle(message: string): boolean {
  return (
    message.startsWith('Garbage Collection (') ||
    message.startsWith('Major Collection (') ||
    message.startsWith('Minor Collection (')
  );
}

/** A ZGC collection's label without its sizes, and what it gave back; null at its beginning and for a cut line. */
export interface ZCycle {
  readonly label: string;
  readonly release: Release | null;
}

/** Takes the line of a ZGC collection apart. */
export function readZCycle(message: string): ZCycle {
  const text = message.trimEnd();
  const arrow = text.indexOf('%)->');
  if (arrow < 0) return { label: text, release: null };
  const sizesAt = text.lastIndexOf(' ', arrow) + 1;
  const before = scanner.read(text, sizesAt);
  const unit = unitBytes(text.charCodeAt(scanner.end));
  const after = scanner.read(text, arrow + 4);
  const afterUnit = unitBytes(text.charCodeAt(scanner.end));
  // Only a closed percentage, or the time behind it, proves that the line is whole.
  const whole = text.endsWith('%)') || text.endsWith('s');
  const known = whole && !Number.isNaN(before * unit * after * afterUnit);
  return {
    label: text.slice(0, sizesAt - 1),
    release: known
      ? {
          beforeBytes: before * unit,
          afterBytes: after * afterUnit,
          capacityBytes: NaN,
          resolutionBytes: Math.max(unit, afterUnit),
        }
      : null,
  };
}

/** Text of an event without the generation that ZGC puts before it: `Y: `, `y: ` or `O: `. */
export function withoutGeneration(message: string): string {
  return /^[YyO]: /.test(message) ? message.slice(3) : message;
}

/**
 * A stall of the program's own threads, `Allocation Stall (load-0) 25.602ms`; null for any other message and a cut one.
 */
export function readStall(
  message: string,
): { readonly label: string; readonly thread: string; readonly durationMs: number } | null {
  const found = /^((?:Allocation|Relocation) Stall) \((.*)\) ([\d.]+)ms\s*$/.exec(message);
  return found === null ? null : { label: found[1]!, thread: found[2]!, durationMs: Number(found[3]) };
}

/**
 * Used bytes of Epsilon's `Heap: 98304K reserved, 98304K (100.00%) committed, 4948K (5.03%) used`; NaN for any other
 * message.
 */
export function readEpsilonUsed(message: string): number {
  const found = /^Heap: .*committed, (\d+)([BKMG]) \([\d.]+%\) used\s*$/.exec(message);
  return found === null ? NaN : Number(found[1]) * unitBytes(found[2]!.charCodeAt(0));
}
