// Works without ever returning to the event loop, and ends by process.exit.
import { arrayBytes, count, LINK, seconds, tell } from './count.mjs';
let kept = null;
let sum = 0;
const pause = new Int32Array(new SharedArrayBuffer(4));
function keepResult() { kept = { next: kept, level: new Array(400).fill(1) }; count('keepResult', LINK + arrayBytes(400), LINK + arrayBytes(400)); }
function compute() { for (let n = 0; n < 60; n++) sum += new Array(200).fill(n).length; count('compute', 60 * arrayBytes(200)); }
const until = performance.now() + seconds * 1000;
while (performance.now() < until) { compute(); keepResult(); Atomics.wait(pause, 0, 0, 4); }
tell({ verdict: 'any', top: 'keepResult', unsettled: true });
process.exit(0);
