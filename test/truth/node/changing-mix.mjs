// Three kinds of work take turns, two seconds each.
import { arrayBytes, count, run } from './count.mjs';
let sum = 0;
function high() { for (let n = 0; n < 200; n++) sum += new Array(150).fill(n).length; count('high', 200 * arrayBytes(150)); }
function ebb() { for (let n = 0; n < 100; n++) sum += new Array(150).fill(n).length; count('ebb', 100 * arrayBytes(150)); }
function low() { for (let n = 0; n < 30; n++) sum += new Array(150).fill(n).length; count('low', 30 * arrayBytes(150)); }
run(10, () => { [high, ebb, low][Math.floor(performance.now() / 2000) % 3](); }, { verdict: 'steady' });
