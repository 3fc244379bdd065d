// A parser stops after a third of the time, another goes on.
import { arrayBytes, count, run } from './count.mjs';
let sum = 0;
function startUp() { for (let n = 0; n < 200; n++) sum += new Array(200).fill(n).length; count('startUp', 200 * arrayBytes(200)); }
function steadyOn() { for (let n = 0; n < 50; n++) sum += new Array(200).fill(n).length; count('steadyOn', 50 * arrayBytes(200)); }
run(20, (_, t) => { if (t < 1 / 3) startUp(); steadyOn(); }, { verdict: 'steady' });
