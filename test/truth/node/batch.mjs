// A build: it keeps what it makes for two thirds of the time, writes it out, lets it go and ends at once.
import { setTimeout as pause } from 'node:timers/promises';
import { arrayBytes, count, seconds, tell } from './count.mjs';
let modules = [];
let sum = 0;
function parseModule() { modules.push(new Array(4000).fill(1)); count('parseModule', arrayBytes(4000), arrayBytes(4000)); }
function printLines() { for (let n = 0; n < 60; n++) sum += new Array(200).fill(n).length; count('printLines', 60 * arrayBytes(200)); }
const startMs = performance.now();
for (let t = 0; t < 1; t = (performance.now() - startMs) / (seconds * 1000)) {
  if (t < 2 / 3) parseModule();
  else modules = [];
  printLines();
  await pause(20);
}
tell({ verdict: 'not-growing', skip: ['parseModule', 'printLines'] });
process.exit(sum === 42 ? 1 : 0);
