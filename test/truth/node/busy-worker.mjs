// A worker never comes back to its event loop and is then terminated.
import { isMainThread, parentPort, Worker } from 'node:worker_threads';
import { arrayBytes, count, seconds, tell } from './count.mjs';
let sum = 0;
function grind(until) { let made = 0; while (performance.now() < until) { for (let n = 0; n < 50; n++) sum += new Array(100).fill(n).length; made += 50; Atomics.wait(pause, 0, 0, 1); } count('grind', made * arrayBytes(100)); }
const pause = new Int32Array(new SharedArrayBuffer(4));
if (isMainThread) {
  const worker = new Worker(new URL(import.meta.url), { argv: process.argv.slice(2) });
  worker.once('message', () => worker.terminate());
} else {
  grind(performance.now() + seconds * 1000);
  tell({ verdict: 'any', unsettled: true });
  parentPort.postMessage('done');
  for (;;) sum++;
}
