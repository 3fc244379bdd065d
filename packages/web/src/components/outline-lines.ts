import type { PathWord } from '@brisk-heron/core';

/** A row of an outline of call paths. */
export interface OutlineRow {
  readonly id: string;
  readonly words: readonly PathWord[];
  readonly children: number;
}

/** A row as it stands in an outline. */
export interface OutlineLine<T> {
  readonly row: T;
  readonly depth: number;
  readonly isOpen: boolean;
}

/** Rows below open ones, each under its parent; '' is the root. */
export function outlineLines<T extends OutlineRow>(
  children: ReadonlyMap<string, readonly T[]>,
  openIds: readonly string[],
): OutlineLine<T>[] {
  const lines: OutlineLine<T>[] = [];
  const open = new Set(openIds);
  const add = (parent: string, depth: number): void => {
    for (const row of children.get(parent) ?? []) {
      const isOpen = open.has(row.id) && children.has(row.id);
      lines.push({ row, depth, isOpen });
      if (isOpen) add(row.id, depth + 1);
    }
  };
  add('', 0);
  return lines;
}

/** A cell of a picture of call paths, across a width of 1. */
export interface PictureCell {
  readonly depth: number;
  readonly from: number;
  readonly to: number;
}

const LEAST = 1e-9;

/** The cell beside one, in the direction of an arrow key; −1 where there is none, or the key is no arrow. */
export function cellBeside(cells: readonly PictureCell[], active: number, key: string): number {
  const cell = cells[active];
  if (cell === undefined) return -1;
  const { depth, from, to } = cell;
  switch (key) {
    case 'ArrowDown':
      return cells.findIndex((each) => each.depth === depth + 1 && each.from >= from - LEAST && each.from < to);
    case 'ArrowUp':
      return cells.findIndex((each) => each.depth === depth - 1 && each.from <= from + LEAST && each.to > from);
    case 'ArrowRight':
      return cells.findIndex((each) => each.depth === depth && each.from > from + LEAST);
    case 'ArrowLeft':
      return cells.findLastIndex((each) => each.depth === depth && each.from < from - LEAST);
    default:
      return -1;
  }
}
