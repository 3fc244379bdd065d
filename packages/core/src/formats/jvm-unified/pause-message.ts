import { isPause } from '../../model/domain.ts';
import { NumberScanner, unitBytes } from '../scan-number.ts';

/** A message `LABEL 6M->2M(64M) 22.797ms`, taken apart. Sizes are NaN where the message has none. */
export interface TimedMessage {
  label: string;
  durationMs: number;
  beforeBytes: number;
  afterBytes: number;
  capacityBytes: number;
  /** Step in which the sizes are printed. */
  resolutionBytes: number;
}

const scanner = new NumberScanner();

/**
 * Takes a finished message apart; null when it does not end in a duration (a start line, or a line that was cut off) of
 * at most a day.
 */
export function readTimedMessage(message: string): TimedMessage | null {
  const trimmed = message.trimEnd();
  if (!trimmed.endsWith('ms')) return null;
  const space = trimmed.lastIndexOf(' ');
  if (space < 0) return null;
  const durationMs = scanner.read(trimmed, space + 1);
  if (Number.isNaN(durationMs) || !isPause(durationMs) || scanner.end !== trimmed.length - 2) return null;
  const timed: TimedMessage = {
    label: trimmed.slice(0, space),
    durationMs,
    beforeBytes: NaN,
    afterBytes: NaN,
    capacityBytes: NaN,
    resolutionBytes: NaN,
  };
  const sizesAt = trimmed.lastIndexOf(' ', space - 1) + 1;
  if (readSizes(trimmed, sizesAt, space, timed)) timed.label = trimmed.slice(0, sizesAt - 1);
  return timed;
}

/** Reads `6M->2M(64M)` in [from, to); leaves `into` alone and answers false when it is anything else. */
function readSizes(text: string, from: number, to: number, into: TimedMessage): boolean {
  const before = scanner.read(text, from);
  const unit = unitBytes(text.charCodeAt(scanner.end));
  if (Number.isNaN(before * unit) || !text.startsWith('->', scanner.end + 1)) return false;
  const after = scanner.read(text, scanner.end + 3);
  const afterUnit = unitBytes(text.charCodeAt(scanner.end));
  if (Number.isNaN(after * afterUnit) || text.charCodeAt(scanner.end + 1) !== 40) return false;
  const capacity = scanner.read(text, scanner.end + 2);
  const capacityUnit = unitBytes(text.charCodeAt(scanner.end));
  if (Number.isNaN(capacity * capacityUnit) || text.charCodeAt(scanner.end + 1) !== 41 || scanner.end + 2 !== to)
    return false;
  into.beforeBytes = before * unit;
  into.afterBytes = after * afterUnit;
  into.capacityBytes = capacity * capacityUnit;
  into.resolutionBytes = Math.max(unit, afterUnit);
  return true;
}

/** What G1 adds to a pause's label when survivors found no room. */
const EVACUATION_FAILURE = / \(Evacuation Failure[^)]*\)$/;

/** True when the pause's label says that survivors found no room. */
export function saysEvacuationFailed(label: string): boolean {
  return EVACUATION_FAILURE.test(label);
}

/**
 * Why a pause was made, by its label: the last group in parentheses that is no remark, which may hold parentheses
 * itself: `System.gc()` of `Pause Full (System.gc())`.
 */
export function causeOf(text: string): string {
  const label = text.includes('(Evac') ? text.replace(EVACUATION_FAILURE, '') : text;
  if (!label.endsWith(')')) return '';
  let depth = 0;
  for (let at = label.length - 1; at >= 0; at--) {
    const code = label.charCodeAt(at);
    if (code === 41) depth++;
    else if (code === 40 && --depth === 0) return label.slice(at + 1, -1);
  }
  return '';
}
