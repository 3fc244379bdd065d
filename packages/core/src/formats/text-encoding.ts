/**
 * Turns UTF-16 into bytes of one a character, chunk by chunk, so that every parser may take its input for plain text.
 */
export class NarrowText {
  readonly littleEndian: boolean;
  private held = -1;

  constructor(littleEndian: boolean) {
    this.littleEndian = littleEndian;
  }

  /**
   * The chunk's characters, a byte each; those that are no Latin-1 become `?`. Half a character waits for the next
   * chunk.
   */
  narrow(chunk: Uint8Array): Uint8Array {
    const out = new Uint8Array((chunk.length + (this.held >= 0 ? 1 : 0)) >> 1);
    let at = 0;
    for (const byte of chunk) {
      if (this.held < 0) {
        this.held = byte;
        continue;
      }
      const code = this.littleEndian ? this.held | (byte << 8) : (this.held << 8) | byte;
      out[at++] = code < 256 ? code : 63;
      this.held = -1;
    }
    return out;
  }
}

const SAMPLE_BYTES = 4096;

/**
 * How an input's text is encoded, by its first bytes: its byte order mark, or, without one, zeros in every second
 * place. Null for anything of one byte a character, UTF-8 with or without a mark included. `skip` is the mark's length.
 */
export function detectWideText(head: Uint8Array): { readonly littleEndian: boolean; readonly skip: number } | null {
  if (head[0] === 0xff && head[1] === 0xfe) return { littleEndian: true, skip: 2 };
  if (head[0] === 0xfe && head[1] === 0xff) return { littleEndian: false, skip: 2 };
  const sample = head.subarray(0, SAMPLE_BYTES);
  const zeros = [0, 0];
  for (let at = 0; at < sample.length; at++) if (sample[at] === 0) zeros[at % 2]!++;
  const most = sample.length / 2;
  if (most >= 8 && zeros[1]! > 0.9 * most && zeros[0]! < 0.1 * most) return { littleEndian: true, skip: 0 };
  if (most >= 8 && zeros[0]! > 0.9 * most && zeros[1]! < 0.1 * most) return { littleEndian: false, skip: 0 };
  return null;
}
