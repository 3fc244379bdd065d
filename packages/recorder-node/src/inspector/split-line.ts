import type { OwnLine } from '../line-sink.ts';

/** Rows of one line: so that no line is longer than readers and senders take in one go. */
const MOST_ROWS = 1500;

/**
 * A line of columns as several, none of which has more rows than fit one; any other line as it is. Ids that count from
 * `first` go on counting.
 */
export function splitLine(line: OwnLine, mostRows = MOST_ROWS): OwnLine[] {
  const columns = Object.entries(line).filter((entry): entry is [string, unknown[]] => Array.isArray(entry[1]));
  const rows = columns[0]?.[1].length ?? 0;
  if (rows <= mostRows || columns.some(([, values]) => values.length !== rows)) return [line];
  const pieces: OwnLine[] = [];
  for (let from = 0; from < rows; from += mostRows) {
    const cut = columns.map(([key, values]) => [key, values.slice(from, from + mostRows)]);
    pieces.push({
      ...line,
      ...('first' in line ? { first: line.first + from } : {}),
      ...(Object.fromEntries(cut) as object),
    });
  }
  return pieces;
}
