const BYTES: ReadonlyMap<string, number> = new Map([
  ['', 1],
  ['b', 1],
  ['k', 2 ** 10],
  ['m', 2 ** 20],
  ['g', 2 ** 30],
  ['t', 2 ** 40],
]);
const MILLISECONDS: ReadonlyMap<string, number> = new Map([
  ['ms', 1],
  ['', 1000],
  ['s', 1000],
  ['sec', 1000],
  ['min', 60_000],
  ['m', 60_000],
  ['h', 3_600_000],
]);

/**
 * Bytes of a size as people type it: `256 MiB`, `256m`, `1.5 GiB`, `268435456`. Every unit is 1024-based. NaN when it
 * is none.
 */
export function parseBytes(text: string): number {
  const found = /^\s*(\d+(?:[.,]\d+)?)\s*([kmgt]?)i?b?\s*$/i.exec(text);
  return found === null ? NaN : Number(found[1]!.replace(',', '.')) * BYTES.get(found[2]!.toLowerCase())!;
}

/**
 * Milliseconds of a duration as people type it: `8 s`, `500 ms`, `2 min`, `8`, which is seconds. NaN when it is none.
 */
export function parseDuration(text: string): number {
  const found = /^\s*(\d+(?:[.,]\d+)?)\s*(ms|s|sec|min|m|h)?\s*$/i.exec(text);
  return found === null ? NaN : Number(found[1]!.replace(',', '.')) * MILLISECONDS.get((found[2] ?? '').toLowerCase())!;
}

/**
 * Milliseconds of an instant as people type it: `1:23.4`, `1:02:03`, or a duration from the beginning. NaN when it is
 * none.
 */
export function parseClock(text: string): number {
  const found = /^\s*(?:(\d+):)?(\d+):(\d+(?:\.\d+)?)\s*$/.exec(text);
  if (found === null) return parseDuration(text);
  return ((Number(found[1] ?? 0) * 60 + Number(found[2])) * 60 + Number(found[3])) * 1000;
}
