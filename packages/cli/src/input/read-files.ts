import { createReadStream } from 'node:fs';
import { open } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import { InputReader, orderParts, type ReadResult } from '@brisk-heron/core';

const HEAD_BYTES = 64 * 1024;

/** What came of reading files: runs, or why there is none; `warnings` tell what was missing though the rest was good. */
export interface FilesResult {
  readonly result: ReadResult;
  /** The input was an exported recording. */
  readonly exported: boolean;
  readonly warnings: readonly string[];
}

/** Reads the parts of one input, plain or gzip, in the order that their content tells. @throws when a file cannot be opened. */
export async function readFiles(files: readonly string[]): Promise<FilesResult> {
  const heads = await Promise.all(files.map(readHead));
  const reader = new InputReader();
  const warnings: string[] = [];
  for (const part of orderParts(heads)) await readPart(files[part]!, reader, warnings);
  const result = reader.end();
  const last = result.ok ? result.runs[result.runs.length - 1] : undefined;
  for (const message of warnings) last?.issues.add({ code: 'cut-gzip', line: last.lines, byteOffset: last.bytes, message });
  return { result, exported: reader.header !== null, warnings };
}

async function readPart(file: string, reader: InputReader, warnings: string[]): Promise<void> {
  const source = await openPart(file);
  try {
    for await (const chunk of source) reader.write(chunk as Buffer);
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code ?? '';
    if (!code.startsWith('Z_')) throw error;
    warnings.push(`${file}: the compressed data is cut off or damaged (${code}); what came before was read`);
  }
}

async function openPart(file: string): Promise<Readable> {
  const source = createReadStream(file, { highWaterMark: 1024 * 1024 });
  return (await isGzip(file)) ? source.pipe(createGunzip()) : source;
}

async function isGzip(file: string): Promise<boolean> {
  const head = await readStart(file, 2);
  return head[0] === 0x1f && head[1] === 0x8b;
}

async function readHead(file: string): Promise<string> {
  if (!(await isGzip(file))) return (await readStart(file, HEAD_BYTES)).toString('latin1');
  const parts: Buffer[] = [];
  let bytes = 0;
  try {
    for await (const chunk of createReadStream(file, { end: HEAD_BYTES }).pipe(createGunzip())) {
      parts.push(chunk as Buffer);
      if ((bytes += (chunk as Buffer).length) >= HEAD_BYTES) break;
    }
  } catch {
    // Only the head was fed in, so the stream looks cut off: what came out is what was wanted.
  }
  return Buffer.concat(parts).toString('latin1');
}

async function readStart(file: string, bytes: number): Promise<Buffer> {
  const handle = await open(file, 'r');
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(bytes), 0, bytes, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}
