/** Writes a stream as a recorder does, in pieces of any length, until it is ended: `node writer.mjs FILE SEED`. */
import { appendFileSync, openSync, writeSync } from 'node:fs';
import { chance } from './chance.mjs';

const [file, seed] = process.argv.slice(2);
const next = chance(Number(seed));
const hello = {
  k: 'hello',
  schema: 'brisk-heron/stream@1',
  h: '1.0',
  epochMs: 1_800_000_000_000 + Number(seed),
  program: 'writer',
  runtime: 'a runtime of its own',
};
appendFileSync(file, `${JSON.stringify(hello)}\n`);
const fd = openSync(file, 'a');
let n = 0;
(function write() {
  let lines = '';
  for (let count = 1 + Math.floor(next() * 40); count > 0; count--)
    lines += `${JSON.stringify({ k: 'mark', h: '1.0', t: n, label: `${n++} ${'x'.repeat(Math.floor(next() ** 8 * 3000))}`, by: 'program' })}\n`;
  const bytes = Buffer.from(lines);
  const cut = Math.floor(next() * bytes.length);
  writeSync(fd, bytes.subarray(0, cut));
  setTimeout(() => {
    writeSync(fd, bytes.subarray(cut));
    setTimeout(write, next() * 20);
  }, next() * 3);
})();
