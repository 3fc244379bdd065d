import { concatBytes } from '../../base/line-splitter.ts';

/**
 * Checksums of a recording's bytes, in blocks of equal length of which the last may be shorter (CRC-32 of ISO 3309, as
 * gzip's).
 */
export interface BlockSums {
  /** Length of a block. */
  readonly blockBytes: number;
  /** All bytes together. */
  readonly bytes: number;
  readonly crc32: readonly number[];
}

const LEAST_BLOCK_BYTES = 64 * 1024;
/** So that a header stays short however large the recording is. */
const MOST_BLOCKS = 16_384;

/** How long the blocks of a recording of so many bytes are. */
export function blockBytesFor(bytes: number): number {
  let block = LEAST_BLOCK_BYTES;
  while (bytes / block > MOST_BLOCKS) block *= 2;
  return block;
}

/** Sums up bytes that are handed over in order, cut anywhere. */
export class BlockSummer {
  private readonly blockBytes: number;
  private readonly sums: number[] = [];
  private crc = 0;
  private inBlock = 0;
  private bytes = 0;

  constructor(blockBytes: number) {
    this.blockBytes = blockBytes;
  }

  take(bytes: Uint8Array): void {
    for (let at = 0; at < bytes.length;) {
      const to = Math.min(bytes.length, at + this.blockBytes - this.inBlock);
      this.crc = crc32(bytes, at, to, this.crc);
      this.inBlock += to - at;
      at = to;
      if (this.inBlock === this.blockBytes) this.close();
    }
    this.bytes += bytes.length;
  }

  end(): BlockSums & { readonly crc32: number[] } {
    if (this.inBlock > 0) this.close();
    return { blockBytes: this.blockBytes, bytes: this.bytes, crc32: this.sums };
  }

  private close(): void {
    this.sums.push(this.crc);
    this.crc = 0;
    this.inBlock = 0;
  }
}

/** Lets through the bytes of blocks whose checksum is right, up to the first that is not or is cut off. */
export class BlockCheck {
  private readonly sums: BlockSums;
  private held: Uint8Array[] = [];
  private heldBytes = 0;
  private block = 0;
  private isBad = false;
  /** Bytes let through so far. */
  goodBytes = 0;

  constructor(sums: BlockSums) {
    this.sums = sums;
  }

  /** Takes the next bytes, cut anywhere; answers those that are known to be good by now. */
  take(bytes: Uint8Array): Uint8Array {
    if (this.isBad) return new Uint8Array(0);
    this.held.push(bytes);
    this.heldBytes += bytes.length;
    if (this.heldBytes < this.lengthOf(this.block)) return new Uint8Array(0);
    const all = concatBytes(this.held);
    let good = 0;
    while (this.block < this.sums.crc32.length && good + this.lengthOf(this.block) <= all.length) {
      const to = good + this.lengthOf(this.block);
      if (crc32(all, good, to, 0) !== this.sums.crc32[this.block]) {
        this.isBad = true;
        break;
      }
      good = to;
      this.block++;
    }
    this.held = [all.subarray(good)];
    this.heldBytes = all.length - good;
    this.goodBytes += good;
    return all.subarray(0, good);
  }

  /** Bytes of the recording that are missing or damaged, once all was taken. */
  get missingBytes(): number {
    return this.sums.bytes - this.goodBytes;
  }

  private lengthOf(block: number): number {
    return Math.max(1, Math.min(this.sums.blockBytes, this.sums.bytes - block * this.sums.blockBytes));
  }
}

const TABLE = Uint32Array.from({ length: 256 }, (_, byte) => {
  let value = byte;
  for (let bit = 0; bit < 8; bit++) value = value & 1 ? 0xedb88320 ^ (value >>> 1) : value >>> 1;
  return value;
});

/** CRC-32 of the bytes in [from, to), carried on from that of the bytes before. */
export function crc32(bytes: Uint8Array, from: number, to: number, before: number): number {
  let value = ~before;
  for (let at = from; at < to; at++) value = TABLE[(value ^ bytes[at]!) & 0xff]! ^ (value >>> 8);
  return ~value >>> 0;
}
