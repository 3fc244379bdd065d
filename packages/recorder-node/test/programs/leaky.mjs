// Keeps 40 KiB for every 50 ms that pass from one function for ever, however late its timers are, and churns from another, until the
// file that is named exists.
import { existsSync } from 'node:fs';

const kept = [];

function keepReading() {
  while (kept.length * 50 < performance.now() - startMs) kept.push(new Array(5 * 1024).fill(kept.length));
}

function churnReadings() {
  let sum = 0;
  for (let n = 0; n < 4000; n++) sum += [n, n + 1, n + 2, n + 3].map((each) => ({ each })).length;
  return sum;
}

const startMs = performance.now();
const timers = [setInterval(keepReading, 50), setInterval(churnReadings, 10), setInterval(() => existsSync(process.argv[2]) && timers.forEach(clearInterval), 200)];
