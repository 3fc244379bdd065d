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

/**
 * The bytes of a chunk in order, in pieces as the browser reads them: a chunk may be a large part of a file, or all of
 * one. Read as a stream, of which the browser has the next piece ready; pieces that are read one by one take longer.
 */
export async function* chunkPieces({ bytes }: Pick<ChunkRow, 'bytes'>): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  if (!(bytes instanceof Blob)) {
    yield bytes;
    return;
  }
  const reader = bytes.stream().getReader();
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      yield value;
    }
  } finally {
    await reader.cancel().catch(() => undefined);
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
