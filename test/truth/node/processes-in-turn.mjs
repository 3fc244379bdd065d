// Ten processes one after another, each of which holds 8 MB and ends: what has ended holds nothing.
import { fork } from 'node:child_process';
import { seconds, tell } from './count.mjs';
if (process.argv[3] === 'hold') {
  const held = Array.from({ length: 40 }, (_, n) => new Array(25_000).fill(n));
  setTimeout(() => process.exit(held.length === 0 ? 1 : 0), seconds * 1000);
} else {
  for (let n = 0; n < 10; n++) await new Promise((ended) => fork(process.argv[1], [String(seconds / 10), 'hold']).once('exit', ended));
  tell({ verdict: 'not-growing' });
}
