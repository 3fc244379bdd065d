import { MIB } from '../../base/units.ts';
import { isPause, isTime } from '../../model/domain.ts';

/** One line of `--trace-gc`, in the units it is printed in. */
export interface TraceLine {
  readonly isolate: string;
  readonly stampMs: number;
  readonly label: string;
  readonly usedBeforeMb: number;
  readonly usedAfterMb: number;
  readonly committedMb: number;
  readonly pauseMs: number;
  readonly reason: string;
  /** Bytes moved out of the young space; NaN where the line does not say. */
  readonly promotedBytes: number;
  /** Step in which the sizes are printed, in bytes. */
  readonly resolutionBytes: number;
}

// [8888:0x2b945fa0]       48 ms: Scavenge 4.1 (4.2) -> 3.4 (5.2) MB, 0.88 / 0.00 ms  (average mu = 1.000, …) allocation
// failure;
const KINDS = 'Scavenge|Mark-Compact|Mark-sweep|Minor Mark-Compact|Minor Mark-Sweep';
const LINE = new RegExp(
  String.raw`\[(\d+:0x[0-9a-f]+)\]\s+(\d+) ms: (${KINDS})((?: \([a-z ]+\))?) (\d+\.\d+) \((\d+\.\d+)\) -> (\d+\.\d+) \((\d+\.\d+)\) MB, (?:(?:pooled: [^,]+), )?(\d+\.\d+) \/ (\d+\.\d+) ms\s*(.*)$`,
);
/** A collection's name in a line of `--trace-gc`, whole. */
export const TRACE_LABEL = new RegExp(String.raw`^(?:${KINDS})(?: \([a-z ]+\))?$`);

// [9184:0x7f44900]      124 ms: pause=6.8 mutator=106.1 gc=s reduce_memory=0 … total_size_before=4338456
// total_size_after=3549392 …
const PAIRS = /\[(\d+:0x[0-9a-f]+)\]\s+(\d+) ms: pause=(\d+\.\d) mutator=\d+\.\d gc=(\w+) (.*)$/;
/** `--trace-gc-nvp` abbreviates what `--trace-gc` spells out. */
const PAIR_LABELS: ReadonlyMap<string, string> = new Map([
  ['s', 'Scavenge'],
  ['mc', 'Mark-Compact'],
  ['ms', 'Mark-Compact'],
  ['mmc', 'Minor Mark-Compact'],
  ['mms', 'Minor Mark-Sweep'],
]);
/** Step of the sizes of `--trace-gc`. */
export const TENTH_MB = 0.1 * MIB;

/**
 * Takes a line apart; null when it is anything else, cut off before its figures end, or tells times that no program
 * has.
 */
export function readTraceLine(line: string): TraceLine | null {
  const read = readFigures(line);
  return read !== null && isTime(read.stampMs) && isPause(read.pauseMs) ? read : null;
}

function readFigures(line: string): TraceLine | null {
  const pairs = line.includes(' ms: pause=') ? PAIRS.exec(line) : null;
  if (pairs !== null) return readPairs(pairs);
  const found = LINE.exec(line);
  if (found === null) return null;
  return {
    isolate: found[1]!,
    stampMs: Number(found[2]),
    label: found[3]! + found[4]!,
    usedBeforeMb: Number(found[5]),
    usedAfterMb: Number(found[7]),
    committedMb: Number(found[8]),
    pauseMs: Number(found[9]),
    reason: reasonOf(found[11]!),
    promotedBytes: NaN,
    resolutionBytes: TENTH_MB,
  };
}

// A figure at the very end of the line may be cut off: a blank behind it proves that it is whole.
function readPairs(pairs: RegExpExecArray): TraceLine | null {
  const before = /(?:^| )total_size_before=(\d+) /.exec(pairs[5]!);
  const after = /(?:^| )total_size_after=(\d+) /.exec(pairs[5]!);
  if (before === null || after === null) return null;
  const promoted = /(?:^| )promoted=(\d+) /.exec(pairs[5]!);
  return {
    isolate: pairs[1]!,
    stampMs: Number(pairs[2]),
    label: PAIR_LABELS.get(pairs[4]!) ?? pairs[4]!,
    usedBeforeMb: Number(before[1]) / MIB,
    usedAfterMb: Number(after[1]) / MIB,
    committedMb: NaN,
    pauseMs: Number(pairs[3]),
    reason: '',
    promotedBytes: promoted === null ? NaN : Number(promoted[1]),
    resolutionBytes: 1,
  };
}

/** One space after a collection, as `--trace-gc-verbose` prints it; null for any other line and a cut one. */
export function readSpaceLine(
  line: string,
): { readonly isolate: string; readonly name: string; readonly usedBytes: number } | null {
  const found = line.includes(' space, ')
    ? /\[(\d+:0x[0-9a-f]+)\]\s+(.+ space),\s+used:\s+(\d+) KB, available:/.exec(line)
    : null;
  return found === null ? null : { isolate: found[1]!, name: found[2]!, usedBytes: Number(found[3]) * 1024 };
}

/** What follows the last parenthesis: "(average mu = 1.000, current mu = 1.000) task; " gives "task". */
export function reasonOf(tail: string): string {
  const cut = tail.lastIndexOf(')');
  return tail
    .slice(cut + 1)
    .trim()
    .replace(/;$/, '');
}

/** True for a line that looks like one of a collection and was not understood. */
export function looksLikeTrace(line: string): boolean {
  return /^\s*\[\d+:0x[0-9a-f]+\]\s+\d+ ms: /.test(line);
}
