// One array of 40 MB is made once and stays; a few large ones come and go.
import { arrayBytes, count, run } from './count.mjs';
let month = null;
let sum = 0;
function loadMonth() { month = new Array(5_000_000).fill(1); count('loadMonth', arrayBytes(5_000_000), arrayBytes(5_000_000)); }
function scan() { sum += new Array(200_000).fill(1).length; count('scan', arrayBytes(200_000)); }
run(250, (n) => { if (n === 8) loadMonth(); scan(); }, { verdict: 'not-growing', hold: () => month });
