import type { Letters } from '../../base/line-batch.ts';
import { isPause, isTime } from '../../model/domain.ts';
import { ByteTemplate } from '../byte-template.ts';
import { ByteWords } from '../byte-text.ts';
import { reasonOf, TENTH_MB, TRACE_LABEL, type TraceLine } from './trace-line.ts';

const RETURN = 13;
const BLANK = 32;
const CLOSED = 41;
const LESS = 60;
const OPEN = 91;
const CLOSE = 93;
const ISOLATE = /^\d+:0x[0-9a-f]+$/;
const STAMP = new ByteTemplate('%d ms: ');
const FIGURES = new ByteTemplate(' %f (%f) -> %f (%f) MB, %f / %f ms');
/** Places of the figures that are printed with a fraction always. */
const BEFORE = 0;
const AFTER = 2;
const COMMITTED = 3;
const PAUSE = 4;

/** Reads lines of `--trace-gc` from their bytes. */
export class TraceBytes {
  private readonly isolates = new ByteWords((text) => (ISOLATE.test(text) ? text : null));
  private readonly labels = new ByteWords((text) => (TRACE_LABEL.test(text) ? text : null));
  private readonly reasons = new ByteWords(reasonOf);

  /** The line in [from, to); null for any other, and an unusual one. */
  read(letters: Letters, from: number, to: number): TraceLine | null {
    const { bytes } = letters;
    if (bytes[from] !== OPEN) return null;
    let at = from + 1;
    while (at < to && bytes[at] !== CLOSE) at++;
    const isolate = this.isolates.of(letters, from + 1, at);
    const stampAt = skipBlanks(bytes, at + 1);
    if (isolate === null || stampAt === at + 1 || !STAMP.fits(letters, stampAt)) return null;
    const labelAt = STAMP.end;
    // The name ends before the blank that a figure follows; one in parentheses may be a part of it.
    let labelTo = labelAt;
    while (labelTo < to && !(bytes[labelTo] === BLANK && isDigit(bytes[labelTo + 1]!))) labelTo++;
    const label = this.labels.of(letters, labelAt, labelTo);
    if (label === null || !FIGURES.fits(letters, labelTo)) return null;
    const reason = this.reasonIn(letters, FIGURES.end, bytes[to - 1] === RETURN ? to - 1 : to);
    const { values } = FIGURES;
    const [stampMs, pauseMs] = [STAMP.values[0]!, values[PAUSE]!];
    if (reason === null || !areDecimal(bytes, labelTo, FIGURES.end) || !isTime(stampMs) || !isPause(pauseMs))
      return null;
    return {
      isolate,
      stampMs,
      label,
      usedBeforeMb: values[BEFORE]!,
      usedAfterMb: values[AFTER]!,
      committedMb: values[COMMITTED]!,
      pauseMs,
      reason,
      promotedBytes: NaN,
      resolutionBytes: TENTH_MB,
    };
  }

  // What follows the last parenthesis, if any; null where the line holds what frames a crash report.
  private reasonIn(letters: Letters, from: number, to: number): string | null {
    const { bytes } = letters;
    let cut = to;
    while (cut > from && bytes[cut - 1] !== CLOSED) cut--;
    for (let at = from; at < to; at++) if (bytes[at] === LESS || bytes[at] === RETURN) return null;
    return this.reasons.of(letters, cut, to);
  }
}

// Every one of the six figures has a fraction: as many dots as figures.
function areDecimal(bytes: Uint8Array, from: number, to: number): boolean {
  let dots = 0;
  for (let at = from; at < to; at++) if (bytes[at] === 46) dots++;
  return dots === FIGURES.values.length;
}

function skipBlanks(bytes: Uint8Array, from: number): number {
  let at = from;
  while (bytes[at] === BLANK) at++;
  return at;
}

function isDigit(code: number): boolean {
  return code >= 48 && code <= 57;
}
