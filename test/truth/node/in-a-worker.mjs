// A worker thread keeps what it reads; the main thread churns.
import { isMainThread, Worker } from 'node:worker_threads';
import { arrayBytes, count, LINK, run } from './count.mjs';
let kept = null;
let sum = 0;
function keepInWorker() { for (let n = 0; n < 5; n++) kept = { next: kept, level: new Array(400).fill(n) }; count('keepInWorker', 5 * (LINK + arrayBytes(400)), 5 * (LINK + arrayBytes(400))); }
function churnInMain() { for (let n = 0; n < 100; n++) sum += new Array(200).fill(n).length; count('churnInMain', 100 * arrayBytes(200)); }
if (isMainThread) new Worker(new URL(import.meta.url), { argv: process.argv.slice(2) });
run(20, () => (isMainThread ? churnInMain : keepInWorker)(), { verdict: 'growing', top: 'keepInWorker' });
