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
