// A leak beside churn; as the program closes it lets everything go, and a collection shows it.
import { setTimeout as pause } from 'node:timers/promises';
import { arrayBytes, count, LINK, seconds, tell } from './count.mjs';
let kept = null;
let sum = 0;
function subscribe() { kept = { next: kept, level: new Array(1000).fill(1) }; count('subscribe', LINK + arrayBytes(1000), LINK + arrayBytes(1000)); }
function readLevels() { for (let n = 0; n < 60; n++) sum += new Array(200).fill(n).length; count('readLevels', 60 * arrayBytes(200)); }
const endMs = performance.now() + seconds * 1000;
while (performance.now() < endMs) { subscribe(); readLevels(); await pause(20); }
kept = null;
for (let n = 0; n < 20; n++) { for (let m = 0; m < 200; m++) sum += new Array(2000).fill(m).length; await pause(100); }
tell({ verdict: 'growing', top: 'subscribe', skip: ['subscribe', 'readLevels'] });
