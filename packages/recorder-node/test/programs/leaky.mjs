// Keeps 40 KiB for every 50 ms that pass from one function for ever, and churns from another, until the file that is named exists. At its
// end it writes beside that file what it kept when: a line of milliseconds since 1970 and bytes for each time that it kept more.
import { existsSync, writeFileSync } from 'node:fs';

const kept = [];

function keepReading() {
  while (kept.length * 50 < performance.now() - startMs) kept.push(new Array(5 * 1024).fill(kept.length));
}

function churnReadings() {
  let sum = 0;
  for (let n = 0; n < 4000; n++) sum += [n, n + 1, n + 2, n + 3].map((each) => ({ each })).length;
  return sum;
}

function keepAndCount() {
  keepReading();
  counted += `${performance.timeOrigin + performance.now()} ${kept.length * 5 * 1024 * 8}\n`;
}

function endWhenAsked() {
  if (!existsSync(process.argv[2])) return;
  timers.forEach(clearInterval);
  writeFileSync(`${process.argv[2]}.kept`, counted);
}

let counted = '';
const startMs = performance.now();
const timers = [setInterval(keepAndCount, 50), setInterval(churnReadings, 10), setInterval(endWhenAsked, 200)];
