import { createReadStream } from 'node:fs';
import { open } from 'node:fs/promises';
import { basename } from 'node:path';
import type { Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import {
  groupParts,
  InputReader,
  missingOfGzip,
  type Notebook,
  type PartFile,
  type PartGroup,
  type ReadResult,
} from '@brisk-heron/core';
import { fileBeginning } from '@brisk-heron/server';

const HEAD_BYTES = 64 * 1024;

/**
 * What came of reading files: runs, or why there is none; `warnings` tell what was missing though the rest was good.
 */
export interface FilesResult {
  readonly result: ReadResult;
  /** The input was an exported recording. */
  readonly exported: boolean;
  /** What was noted beside it; null where nothing was. */
  readonly notebook: Notebook | null;
  readonly warnings: readonly string[];
}

/**
 * Reads the parts of one input, plain or gzip, in the order that their content tells. @throws when a file cannot be
 * opened.
 */
export async function readFiles(files: readonly string[]): Promise<FilesResult> {
  const parts = await Promise.all(files.map(partOf));
  const [group, ...others] = groupParts(parts);
  const warnings: string[] = [];
  if (group === undefined || others.length > 0)
    return {
      result: { ok: false, code: 'several-runs', message: severalRuns(files, [group!, ...others]) },
      exported: false,
      notebook: null,
      warnings,
    };
  const copies =
    group.copies.length === 0
      ? []
      : [
          `${group.copies.map((copy) => files[copy]!).join(', ')}: the same as ${files[group.files[0]!]!}, and left out`,
        ];
  const reader = new InputReader();
  for (const part of group.files) reader.expectedBytes += parts[part]!.bytes;
  for (const part of group.files) await readPart(files[part]!, reader, warnings);
  const result = reader.end();
  const last = result.ok ? result.runs[result.runs.length - 1] : undefined;
  if (last !== undefined && last.missing === '' && warnings.length > 0) last.missing = warnings[0]!;
  for (const message of warnings)
    last?.issues.add({ code: 'cut-gzip', line: last.lines, byteOffset: last.bytes, message });
  const notebook = reader.header?.notebook ?? null;
  return { result, exported: reader.header !== null, notebook, warnings: [...copies, ...warnings] };
}

function severalRuns(files: readonly string[], groups: readonly PartGroup[]): string {
  const each = groups.map((group) => group.files.map((file) => files[file]!).join(' + '));
  return `these are ${groups.length} runs, by their clocks and the numbers of their collections, and not the parts of one log (${each.join('; ')}): analyze each by itself`;
}

/** What tells which run a file is of. @throws when it cannot be opened. */
export async function partOf(file: string): Promise<PartFile> {
  const handle = await open(file, 'r');
  const { size } = await handle.stat().finally(() => handle.close());
  const head = await readHead(file);
  // Of a compressed file only the beginning can be had without reading it all.
  const tail = (await isGzip(file)) ? '' : await readEnd(file, size);
  return { name: basename(file), bytes: size, head, tail };
}

async function readEnd(file: string, size: number): Promise<string> {
  const parts: Buffer[] = [];
  for await (const chunk of createReadStream(file, { start: Math.max(0, size - HEAD_BYTES) }))
    parts.push(chunk as Buffer);
  return Buffer.concat(parts).toString('latin1');
}

async function readPart(file: string, reader: InputReader, warnings: string[]): Promise<void> {
  const source = await openPart(file);
  try {
    for await (const chunk of source) reader.write(chunk as Buffer);
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code ?? '';
    if (!code.startsWith('Z_')) throw error;
    warnings.push(missingOfGzip(`${file} (${code})`));
  }
}

async function openPart(file: string): Promise<Readable> {
  const source = createReadStream(file, { highWaterMark: 1024 * 1024 });
  return (await isGzip(file)) ? source.pipe(createGunzip()) : source;
}

async function isGzip(file: string): Promise<boolean> {
  const head = await fileBeginning(file, 2);
  return head[0] === 0x1f && head[1] === 0x8b;
}

async function readHead(file: string): Promise<string> {
  if (!(await isGzip(file))) return (await fileBeginning(file, HEAD_BYTES)).toString('latin1');
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
