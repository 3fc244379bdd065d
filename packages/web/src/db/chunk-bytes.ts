import type { ChunkRow } from './heron-db.ts';

/** Bytes of a chunk. */
export function chunkLength({ bytes }: Pick<ChunkRow, 'bytes'>): number {
  return bytes instanceof Blob ? bytes.size : bytes.length;
}

/** A part of a chunk, all of it unless offsets are given; they may lie outside of it. */
export async function chunkBytes(
  { bytes }: Pick<ChunkRow, 'bytes'>,
  from = 0,
  to = Infinity,
): Promise<Uint8Array<ArrayBuffer>> {
  const length = chunkLength({ bytes });
  const [start, end] = [Math.max(0, from), Math.max(0, Math.min(length, to))];
  if (bytes instanceof Blob) return new Uint8Array(await bytes.slice(start, end).arrayBuffer());
  return bytes.subarray(start, end);
}

/** A chunk may be a large part of a file: so much of it is read at once. */
const PIECE_BYTES = 4 * 1024 * 1024;

/** The bytes of a chunk in order, in pieces; each is read while the one before is looked at. */
export async function* chunkPieces(chunk: Pick<ChunkRow, 'bytes'>): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  const length = chunkLength(chunk);
  const piece = (from: number): Promise<Uint8Array<ArrayBuffer>> | null => {
    const read = from < length ? chunkBytes(chunk, from, from + PIECE_BYTES) : null;
    // Whoever takes it is told.
    read?.catch(() => undefined);
    return read;
  };
  let next = piece(0);
  for (let from = PIECE_BYTES; next !== null; from += PIECE_BYTES) {
    const bytes: Uint8Array<ArrayBuffer> = await next;
    next = piece(from);
    yield bytes;
  }
}

/** Bytes that came in parts, as one. Copies. */
export function joined(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}
