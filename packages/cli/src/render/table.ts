import { type Column, formatBytes, formatDuration, formatPercent, type Table } from '@brisk-heron/core';

/** A measure's answer as a table for a terminal: text to the left, numbers to the right. Pure, ends with a newline. */
export function renderTable(table: Table<unknown, unknown>, answer: unknown): string {
  const rows = table.rows(answer);
  if (rows.length === 0) return 'Nothing of it is in what was asked about.\n';
  const cells = rows.map((row) => table.columns.map((column) => cellOf(column, row)));
  const widths = table.columns.map(({ head }, at) => Math.max(head.length, ...cells.map((line) => line[at]!.length)));
  const isText = table.columns.map((column) => rows.every((row) => typeof column.cell(row) === 'string'));
  const lineOf = (texts: readonly string[]): string =>
    texts
      .map((text, at) => (isText[at] === true ? text.padEnd(widths[at]!) : text.padStart(widths[at]!)))
      .join('  ')
      .trimEnd();
  return `${[lineOf(table.columns.map(({ head }) => head)), ...cells.map(lineOf)].join('\n')}\n`;
}

function cellOf({ cell, unit = 'count' }: Column<unknown>, row: unknown): string {
  const value = cell(row);
  if (typeof value === 'string') return value;
  if (value === null || Number.isNaN(value)) return '–';
  switch (unit) {
    case 'bytes':
      return formatBytes(value);
    case 'bytes/s':
      return `${formatBytes(value)}/s`;
    case 'ms':
      return formatDuration(value);
    case 'ratio':
      return formatPercent(value);
    case 'count':
      return value.toLocaleString('en', { maximumFractionDigits: value < 10 ? 1 : 0 });
  }
}
