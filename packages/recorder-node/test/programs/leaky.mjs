// Keeps 40 KiB every 50 ms from one function for ever, and churns from another, until the file that is named exists. Then it prints
// what it kept and in what time: on a busy machine timers fall behind.
import { existsSync } from 'node:fs';

const kept = [];

function keepReading() {
  kept.push(new Array(5 * 1024).fill(kept.length));
}

function churnReadings() {
  let sum = 0;
  for (let n = 0; n < 4000; n++) sum += [n, n + 1, n + 2, n + 3].map((each) => ({ each })).length;
  return sum;
}

const startMs = performance.now();
const timers = [setInterval(keepReading, 50), setInterval(churnReadings, 10), setInterval(stopWhenAsked, 200)];

function stopWhenAsked() {
  if (!existsSync(process.argv[2])) return;
  timers.forEach(clearInterval);
  console.log(JSON.stringify({ keptBytes: kept.length * 5 * 1024 * 8, ms: performance.now() - startMs }));
}
