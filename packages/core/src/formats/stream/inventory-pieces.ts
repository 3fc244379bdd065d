import { readInventory } from '../inventory-file/read-inventory.ts';
import type { Recording } from '../../model/recording.ts';
import { PauseFlag, Scope } from '../../model/tables.ts';
import type { InventoryLine } from './layout.ts';
import type { HeapScope } from './heap-scope.ts';

/**
 * Takes a piece of an inventory, and with the last one the inventory itself. Answers null, or what was expected; what
 * came of an inventory in the wrong order is dropped.
 */
export function appendInventory(recording: Recording, scope: HeapScope, line: InventoryLine): string | null {
  if (line.n === 0) scope.coming = { t: line.t, pieces: [] };
  const { coming } = scope;
  if (coming === null || coming.t !== line.t || coming.pieces.length !== line.n) {
    scope.coming = null;
    return `expected piece ${coming?.pieces.length ?? 0} of an inventory of ${coming?.t ?? line.t} ms, found ${line.n}: it is left out`;
  }
  const bytes = bytesOfBase64(line.data);
  if (bytes === null) {
    scope.coming = null;
    return 'expected base64: the inventory is left out';
  }
  coming.pieces.push(bytes);
  if (line.last !== true) return null;
  scope.coming = null;
  const tMs = line.t + scope.offsetMs;
  try {
    const read = readInventory(coming.pieces);
    recording.inventories.push({ ...read, heapId: scope.heapId, tMs, pauseMs: line.ms ?? NaN });
    recording.inventories.sort((a, b) => a.tMs - b.tMs);
  } catch (error) {
    return `${error instanceof Error ? error.message : String(error)}: the inventory is left out`;
  }
  if (line.ms !== undefined) appendStop(recording, scope, tMs, line.ms);
  recording.reach(tMs + (line.ms ?? 0));
  return null;
}

// The program stood still while its heap was written down: a pause that the recorder made.
function appendStop(recording: Recording, scope: HeapScope, startMs: number, durationMs: number): void {
  const { pauses } = recording.tables;
  const row = pauses.addRow();
  const { col } = pauses;
  col.startMs[row] = startMs;
  col.durationMs[row] = durationMs;
  col.labelId[row] = recording.intern('inventory');
  col.heapId[row] = scope.heapId;
  col.scope[row] = Scope.whole;
  col.flags[row] = PauseFlag.own;
}

const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
/** By the code of a letter; what is none has the highest bit. */
const VALUES = new Uint8Array(1 << 16).fill(255);
for (let at = 0; at < LETTERS.length; at++) VALUES[LETTERS.charCodeAt(at)] = at;

/** Bytes that stand as base64; null where it is none. */
function bytesOfBase64(text: string): Uint8Array | null {
  const end = text.endsWith('==') ? text.length - 2 : text.endsWith('=') ? text.length - 1 : text.length;
  if (text.length % 4 !== 0) return null;
  const bytes = new Uint8Array(Math.floor((end * 3) / 4));
  const value = (at: number): number => VALUES[text.charCodeAt(at)]!;
  const whole = end - (end % 4);
  let seen = 0;
  let to = 0;
  for (let at = 0; at < whole; at += 4) {
    const first = VALUES[text.charCodeAt(at)]!;
    const second = VALUES[text.charCodeAt(at + 1)]!;
    const third = VALUES[text.charCodeAt(at + 2)]!;
    const fourth = VALUES[text.charCodeAt(at + 3)]!;
    seen |= first | second | third | fourth;
    bytes[to] = (first << 2) | (second >> 4);
    bytes[to + 1] = (second << 4) | (third >> 2);
    bytes[to + 2] = (third << 6) | fourth;
    to += 3;
  }
  // Two or three letters more are one byte or two.
  for (let at = whole; at < end; at++) {
    seen |= value(at);
    if (at > whole) bytes[to++] = (value(at - 1) << (2 * (at - whole))) | (value(at) >> (6 - 2 * (at - whole)));
  }
  return seen < 64 ? bytes : null;
}
