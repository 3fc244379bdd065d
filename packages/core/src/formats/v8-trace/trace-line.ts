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
}

// [8888:0x2b945fa0]       48 ms: Scavenge 4.1 (4.2) -> 3.4 (5.2) MB, 0.88 / 0.00 ms  (average mu = 1.000, …) allocation failure;
const LINE = /\[(\d+:0x[0-9a-f]+)\]\s+(\d+) ms: (Scavenge|Mark-Compact|Mark-sweep|Minor Mark-Compact|Minor Mark-Sweep)((?: \([a-z ]+\))?) (\d+\.\d+) \((\d+\.\d+)\) -> (\d+\.\d+) \((\d+\.\d+)\) MB, (?:(?:pooled: [^,]+), )?(\d+\.\d+) \/ (\d+\.\d+) ms\s*(.*)$/;

/** Takes a line apart; null when it is anything else or cut off before its duration ends. */
export function readTraceLine(line: string): TraceLine | null {
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
  };
}

// What follows the last parenthesis: "(average mu = 1.000, current mu = 1.000) task; " gives "task".
function reasonOf(tail: string): string {
  const cut = tail.lastIndexOf(')');
  return tail.slice(cut + 1).trim().replace(/;$/, '');
}

/** True for a line that looks like one of a collection and was not understood. */
export function looksLikeTrace(line: string): boolean {
  return /^\s*\[\d+:0x[0-9a-f]+\]\s+\d+ ms: /.test(line);
}
