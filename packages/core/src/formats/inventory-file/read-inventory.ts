import { NO_VALUES } from '../../model/heap-values.ts';
import type { HeapGraph, Inventory } from '../../model/heap-graph.ts';
import { concatBytes } from '../../base/line-splitter.ts';
import { INVENTORY_HEAD_AT, INVENTORY_MAGIC, INVENTORY_VERSION, type InventoryHead, inventoryHead } from './layout.ts';

declare const TextDecoder: new () => { decode(bytes: Uint8Array): string };

/** What an inventory's bytes tell; when it was taken of which heap is known from beside them. */
export type ReadInventory = Omit<Inventory, 'heapId' | 'tMs' | 'pauseMs'>;

/** Reads an inventory of its bytes (layout.ts), in pieces cut anywhere. @throws with what was expected where it is damaged. */
export function readInventory(pieces: readonly Uint8Array[]): ReadInventory {
  const start = beginningOf(pieces, INVENTORY_HEAD_AT);
  if (start.length < INVENTORY_HEAD_AT || new TextDecoder().decode(start.subarray(0, 8)) !== INVENTORY_MAGIC)
    throw new Error('expected the beginning of an inventory');
  if (start[8] !== INVENTORY_VERSION) throw new Error(`expected version ${INVENTORY_VERSION}, found ${start[8]}`);
  const headBytes = new DataView(start.buffer, start.byteOffset).getUint32(9, true);
  const head = headOf(pieces, headBytes);
  const values = new Varints(pieces, INVENTORY_HEAD_AT + headBytes);
  // Each value has a byte at least: what promises more values than there are bytes is damaged, and asks for no memory.
  if (5 * head.objects + 2 * head.edges + 2 * head.roots + 2 * head.sampled > values.bytesLeft)
    throw new Error('expected all of its columns: it is cut off');
  const graph = graphOf(head, values);
  const sampled = {
    object: values.running(new Uint32Array(head.sampled), head.objects, 'a sampled object'),
    sourceId: values.running(new Float64Array(head.sampled), Infinity, 'a source id'),
    oneIn: head.oneIn,
  };
  const { source, takenEpochMs, defects, notes } = head;
  return { graph, source, takenEpochMs: takenEpochMs ?? NaN, defects, notes, sampled };
}

// As many pieces as have so many bytes together.
function beginningOf(pieces: readonly Uint8Array[], end: number): Uint8Array {
  const parts: Uint8Array[] = [];
  for (let at = 0, got = 0; at < pieces.length && got < end; got += pieces[at++]!.length) parts.push(pieces[at]!);
  return concatBytes(parts);
}

function headOf(pieces: readonly Uint8Array[], length: number): InventoryHead {
  const end = INVENTORY_HEAD_AT + length;
  const bytes = beginningOf(pieces, end);
  if (bytes.length < end) throw new Error('expected the whole head of an inventory: it is cut off');
  let told: unknown = null;
  try {
    told = JSON.parse(new TextDecoder().decode(bytes.subarray(INVENTORY_HEAD_AT, end)));
  } catch {
    // Told below.
  }
  const head = inventoryHead.safeParse(told);
  if (!head.success) throw new Error('expected the head of an inventory, found something else');
  return head.data;
}

function graphOf(head: InventoryHead, values: Varints): HeapGraph {
  const { objects, edges, roots, types, names, rootKinds, library, ownNames } = head;
  const typeId = values.plain(new Uint32Array(objects), types.length, 'a type');
  const ownBytes = values.plain(new Float64Array(objects), Infinity, 'a size');
  const id = values.running(new Float64Array(objects), Infinity, 'an id');
  const firstEdge = new Uint32Array(objects + 1);
  for (let object = 0; object < objects; object++) firstEdge[object + 1] = firstEdge[object]! + values.next();
  if (firstEdge[objects] !== edges || firstEdge.some((edge) => edge > edges))
    throw new Error('expected as many references as its head tells');
  const content = values.plain(new Uint32Array(objects), 2 ** 32, 'a content');
  const edgeTo = new Uint32Array(edges);
  for (let object = 0; object < objects; object++)
    for (let edge = firstEdge[object]!; edge < firstEdge[object + 1]!; edge++) {
      const to = object + unsigned(values.next());
      if (!(to >= 0 && to < objects)) throw new Error('expected references to its own objects');
      edgeTo[edge] = to;
    }
  const isLibrary = new Uint8Array(types.length);
  for (const type of library) isLibrary[type] = 1;
  return {
    ...{ objects, typeId, ownBytes, id, firstEdge, edgeTo, content, types, names, rootKinds, isLibrary },
    edgeName: values.plain(new Uint32Array(edges), names.length, 'a name'),
    roots: values.plain(new Uint32Array(roots), objects, 'a root'),
    rootKind: values.plain(new Uint32Array(roots), rootKinds.length, 'a kind of root'),
    values: NO_VALUES,
    referenceBytes: head.referenceBytes ?? NaN,
    text: new Map(),
    ownName: new Map(ownNames),
  };
}

const unsigned = (value: number): number => (value % 2 === 1 ? -(value + 1) / 2 : value / 2);

const NO_BYTES = new Uint8Array(0);

/** Values of the columns, as they follow each other over the pieces. */
class Varints {
  private readonly pieces: readonly Uint8Array[];
  private piece = 0;
  private at: number;
  /** The piece that `at` is in; empty behind the last. */
  private bytes: Uint8Array = NO_BYTES;
  readonly bytesLeft: number;

  constructor(pieces: readonly Uint8Array[], from: number) {
    this.pieces = pieces;
    this.at = from;
    this.bytesLeft = pieces.reduce((sum, { length }) => sum + length, 0) - from;
    this.toPiece();
  }

  private toPiece(): void {
    while (this.piece < this.pieces.length && this.at >= this.pieces[this.piece]!.length)
      this.at -= this.pieces[this.piece++]!.length;
    this.bytes = this.pieces[this.piece] ?? NO_BYTES;
  }

  // Most are of up to three bytes, and well before the end of their piece.
  next(): number {
    const { bytes, at } = this;
    if (at + 3 < bytes.length) {
      const first = bytes[at]!;
      if (first < 128) {
        this.at = at + 1;
        return first;
      }
      const second = bytes[at + 1]!;
      if (second < 128) {
        this.at = at + 2;
        return first - 128 + second * 128;
      }
      const third = bytes[at + 2]!;
      if (third < 128) {
        this.at = at + 3;
        return first - 128 + (second - 128) * 128 + third * 16_384;
      }
    }
    return this.nextOfAny();
  }

  private nextOfAny(): number {
    let value = 0;
    for (let scale = 1; scale <= 2 ** 49; scale *= 128) {
      if (this.bytes.length === 0) throw new Error('expected all of its columns: it is cut off');
      const byte = this.bytes[this.at++]!;
      if (this.at === this.bytes.length) this.toPiece();
      value += (byte & 127) * scale;
      if (byte < 128) return value;
    }
    throw new Error('expected numbers of at most eight bytes');
  }

  plain<A extends Uint32Array | Float64Array>(into: A, below: number, what: string): A {
    for (let at = 0; at < into.length; at++) {
      const value = this.next();
      if (value >= below) throw new Error(`expected ${what} below ${below}, found ${value}`);
      into[at] = value;
    }
    return into;
  }

  running<A extends Uint32Array | Float64Array>(into: A, below: number, what: string): A {
    let value = 0;
    for (let at = 0; at < into.length; at++) {
      value += unsigned(this.next());
      if (!(value >= 0 && value < below)) throw new Error(`expected ${what} from 0 to below ${below}, found ${value}`);
      into[at] = value;
    }
    return into;
  }
}
