// Two leaks of 2 : 1.
import { arrayBytes, count, LINK, run } from './count.mjs';
let tides = null;
let gauges = null;
function keepTide() { for (let n = 0; n < 4; n++) tides = { next: tides, level: new Array(400).fill(n) }; count('keepTide', 4 * (LINK + arrayBytes(400)), 4 * (LINK + arrayBytes(400))); }
function keepGauge() { for (let n = 0; n < 2; n++) gauges = { next: gauges, level: new Array(400).fill(n) }; count('keepGauge', 2 * (LINK + arrayBytes(400)), 2 * (LINK + arrayBytes(400))); }
run(20, () => { keepTide(); keepGauge(); }, { verdict: 'growing', top: 'keepTide' });
