import { appendFileSync, closeSync, openSync } from 'node:fs';
import { type Inventory, writeInventory } from '@brisk-heron/core';

/** Where in a recording an inventory belongs: its heap, the time by that heap's clock, and how long it took. */
export interface InventoryPlace {
  readonly heap: string;
  readonly tMs: number;
  readonly pauseMs: number;
}

/** Appends an inventory to a recording as lines of the stream, each in one write, so that others may write meanwhile. */
export function appendInventoryLines(file: string, inventory: Inventory, { heap, tMs, pauseMs }: InventoryPlace): void {
  const fd = openSync(file, 'a');
  let n = 0;
  let held: Uint8Array | null = null;
  const put = (piece: Uint8Array, last: boolean): void => {
    const data = Buffer.from(piece.buffer, piece.byteOffset, piece.length).toString('base64');
    const line = { k: 'inventory', h: heap, t: tMs, ms: pauseMs, n: n++, data, ...(last ? { last } : {}) };
    appendFileSync(fd, `${JSON.stringify(line)}\n`);
  };
  try {
    // The last piece is known only once there is no other.
    writeInventory(inventory, (piece) => {
      if (held !== null) put(held, false);
      held = piece;
    });
    if (held !== null) put(held, true);
  } finally {
    closeSync(fd);
  }
}
