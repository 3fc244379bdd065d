/**
 * One value of a CSV file (RFC 4180): nothing for what is no number; text quoted where it must be, and never read as a
 * formula.
 */
export function csvCell(value: number | string): string {
  if (typeof value === 'number') return Number.isFinite(value) ? String(value) : '';
  const text = /^[=+\-@\t]/.test(value) ? `'${value}` : value;
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** A CSV file: a line of names, then a line a row. */
export function csvText(names: readonly string[], rows: readonly (readonly (number | string)[])[]): string {
  return [names, ...rows].map(csvLine).join('');
}

/** One line of a CSV file, its end included. */
export function csvLine(cells: readonly (number | string)[]): string {
  return `${cells.map(csvCell).join(',')}\n`;
}
