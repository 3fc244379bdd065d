import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { InputReader, type ReadResult } from '../../src/formats/input-reader.ts';

export const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);

/** Reads bytes, cut into chunks at the places given. */
export function readBytes(bytes: Uint8Array, cuts: readonly number[] = []): ReadResult {
  const reader = new InputReader();
  const places = [0, ...cuts, bytes.length].sort((a, b) => a - b);
  for (let at = 1; at < places.length; at++) reader.write(bytes.slice(places[at - 1], places[at]));
  return reader.end();
}

/** A file's bytes, unpacked. */
export function fileBytes(file: string): Uint8Array {
  const bytes = readFileSync(file);
  return file.endsWith('.gz') ? gunzipSync(bytes) : bytes;
}

/** The last run of an input. @throws when there is none. */
export function lastRun(result: ReadResult) {
  if (!result.ok) throw new Error(result.message);
  return result.runs[result.runs.length - 1]!;
}
