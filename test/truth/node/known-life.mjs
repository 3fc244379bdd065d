// Every reading lives until 700 more have come.
import { arrayBytes, count, release, run } from './count.mjs';
let window = [];
function takeReading() { window.push({ at: performance.now(), level: new Array(300).fill(1) }); count('takeReading', 40 + arrayBytes(300), 40 + arrayBytes(300)); while (window.length > 0 && window.length > 700) { window.shift(); release('takeReading', 40 + arrayBytes(300)); } }
run(2, (_, t) => { takeReading(); if (t > 0.98) { for (const each of window) { void each; release('takeReading', 40 + arrayBytes(300)); } window = []; } }, { verdict: 'flat' });
