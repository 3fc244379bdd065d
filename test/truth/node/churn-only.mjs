// Some 60 MB a second come and go.
import { arrayBytes, count, run } from './count.mjs';
let sum = 0;
function parse() { for (let n = 0; n < 300; n++) sum += new Array(300).fill(n).length; count('parse', 300 * arrayBytes(300)); }
function format() { for (let n = 0; n < 100; n++) sum += new Array(300).fill(n).length; count('format', 100 * arrayBytes(300)); }
run(16, () => { parse(); format(); }, { verdict: 'steady' });
