// Sizes from 100 bytes to 400 KB, each in its own function, all of them temporary.
import { arrayBytes, count, run } from './count.mjs';
let sum = 0;
function tiny() { for (let n = 0; n < 2000; n++) sum += new Array(8).fill(n).length; count('tiny', 2000 * arrayBytes(8)); }
function near() { for (let n = 0; n < 6; n++) sum += new Array(8000).fill(n).length; count('near', 6 * arrayBytes(8000)); }
function twice() { for (let n = 0; n < 3; n++) sum += new Array(15_900).fill(n).length; count('twice', 3 * arrayBytes(15_900)); }
function large() { sum += new Array(50_000).fill(1).length; count('large', arrayBytes(50_000)); }
run(20, () => { tiny(); near(); twice(); large(); }, { verdict: 'steady' });
