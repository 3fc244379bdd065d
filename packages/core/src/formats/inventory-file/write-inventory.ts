import type { Inventory } from '../../model/heap-graph.ts';
import { INVENTORY_HEAD_AT, INVENTORY_MAGIC, INVENTORY_VERSION, type InventoryHead } from './layout.ts';

declare const TextEncoder: new () => { encode(text: string): Uint8Array };

/** Bytes of a piece: as a line of the stream it stays well under the most that a line may have. */
const PIECE_BYTES = 1 << 20;
/** A varint takes no more. */
const MOST_VARINT = 8;

/** Hands an inventory over as bytes (layout.ts), in pieces of a megabyte as a rule. Memory: one piece. */
export function writeInventory(
  inventory: Inventory,
  take: (piece: Uint8Array) => void,
  pieceBytes = PIECE_BYTES,
): void {
  const { graph, sampled } = inventory;
  const writer = new PieceWriter(take, pieceBytes);
  for (const byte of headBytes(inventory)) writer.byte(byte);
  for (const type of graph.typeId) writer.plain(type);
  for (const bytes of graph.ownBytes) writer.plain(bytes);
  writer.differences(graph.id);
  const { objects, firstEdge, edgeTo } = graph;
  for (let object = 0; object < objects; object++) writer.plain(firstEdge[object + 1]! - firstEdge[object]!);
  for (const content of graph.content) writer.plain(content);
  for (let object = 0; object < objects; object++)
    for (let edge = firstEdge[object]!; edge < firstEdge[object + 1]!; edge++) writer.signed(edgeTo[edge]! - object);
  for (const name of graph.edgeName) writer.plain(name);
  for (const root of graph.roots) writer.plain(root);
  for (const kind of graph.rootKind) writer.plain(kind);
  writer.differences(sampled.object);
  writer.differences(sampled.sourceId);
  writer.end();
}

function headBytes({ graph, source, takenEpochMs, defects, notes, sampled }: Inventory): Uint8Array {
  const head: InventoryHead = {
    source,
    takenEpochMs: Number.isNaN(takenEpochMs) ? null : takenEpochMs,
    defects: [...defects],
    notes: [...notes],
    objects: graph.objects,
    edges: graph.edgeTo.length,
    roots: graph.roots.length,
    sampled: sampled.object.length,
    oneIn: sampled.oneIn,
    referenceBytes: Number.isNaN(graph.referenceBytes) ? null : graph.referenceBytes,
    types: [...graph.types],
    library: graph.types.flatMap((_, type) => (graph.isLibrary[type] === 1 ? [type] : [])),
    names: [...graph.names],
    rootKinds: [...graph.rootKinds],
    ownNames: [...graph.ownName],
  };
  const encoder = new TextEncoder();
  const json = encoder.encode(JSON.stringify(head));
  const bytes = new Uint8Array(INVENTORY_HEAD_AT + json.length);
  bytes.set(encoder.encode(INVENTORY_MAGIC));
  bytes[8] = INVENTORY_VERSION;
  new DataView(bytes.buffer).setUint32(9, json.length, true);
  bytes.set(json, INVENTORY_HEAD_AT);
  return bytes;
}

class PieceWriter {
  private readonly take: (piece: Uint8Array) => void;
  private readonly pieceBytes: number;
  private readonly piece: Uint8Array;
  private length = 0;

  constructor(take: (piece: Uint8Array) => void, pieceBytes: number) {
    this.take = take;
    this.pieceBytes = pieceBytes;
    this.piece = new Uint8Array(pieceBytes + MOST_VARINT);
  }

  byte(value: number): void {
    this.piece[this.length++] = value;
    if (this.length >= this.pieceBytes) this.end();
  }

  /** A whole number from 0 to 2^53. */
  plain(value: number): void {
    let rest = value;
    for (; rest >= 0x80000000; rest = Math.floor(rest / 128)) this.piece[this.length++] = (rest % 128) | 128;
    for (; rest >= 128; rest >>>= 7) this.piece[this.length++] = (rest & 127) | 128;
    this.byte(rest);
  }

  signed(value: number): void {
    this.plain(value < 0 ? -2 * value - 1 : 2 * value);
  }

  differences(column: ArrayLike<number>): void {
    for (let at = 0, before = 0; at < column.length; before = column[at++]!) this.signed(column[at]! - before);
  }

  end(): void {
    if (this.length > 0) this.take(this.piece.slice(0, this.length));
    this.length = 0;
  }
}
