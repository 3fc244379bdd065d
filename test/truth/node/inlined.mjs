// Small functions that optimised code inlines into their callers.
import { arrayBytes, count, LINK, run } from './count.mjs';
let kept = null;
let sum = 0;
function makeTide(n) { return { height: n, levels: new Array(40).fill(n) }; }
function link(value) { return { next: kept, level: value }; }
function collectTides() { for (let n = 0; n < 200; n++) { const tide = makeTide(n); sum += tide.height; if (n % 10 === 0) kept = link(tide); } count('makeTide', 200 * (40 + arrayBytes(40)), 20 * (40 + arrayBytes(40))); count('link', 20 * LINK, 20 * LINK); }
run(10, () => collectTides(), { verdict: 'growing', top: 'makeTide' });
