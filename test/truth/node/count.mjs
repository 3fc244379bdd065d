/** What a program counts of itself: bytes that each function allocated, and how many of them it still holds. */
import { channel } from 'node:diagnostics_channel';
import { appendFileSync } from 'node:fs';

const cells = new Map();

/** Bytes of V8's arrays of small numbers and of plain objects, on machines of 64 bits without compressed pointers. */
export const arrayBytes = (length) => 32 + 16 + 8 * length;
export const objectBytes = (properties) => 24 + 8 * properties;
export const LINK = objectBytes(2);

/** `bytes` more were allocated in the function `name`, `kept` of them to stay. */
export function count(name, bytes, kept = 0) {
  const cell = cells.get(name) ?? { made: 0, kept: 0 };
  cell.made += bytes;
  cell.kept += kept;
  cells.set(name, cell);
}

/** `bytes` of what the function keeps were let go of. */
export function release(name, bytes) {
  cells.get(name).kept -= bytes;
}

export const seconds = Number(process.argv[2] ?? 20);

/** Runs `work(n, t)` every so many milliseconds for the program's time, t going from 0 to 1, then stands still while a collection shows what died, and tells the truth. */
export function run(everyMs, work, truth, quietMs = 1500) {
  const startMs = performance.now();
  let n = 0;
  const timer = setInterval(() => {
    const t = (performance.now() - startMs) / (seconds * 1000);
    if (t < 1) return work(n++, t);
    clearInterval(timer);
    channel('brisk-heron:mark').publish('work ends');
    setTimeout(() => tell(truth), quietMs);
  }, everyMs);
}

/** Writes down what was counted; for programs that do not use `run`. */
export function tell(truth) {
  appendFileSync(process.env.TRUTH_OUT, `${JSON.stringify({ ...truth, cells: Object.fromEntries(cells) })}\n`);
}
