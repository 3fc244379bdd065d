// Churn as fast as the machine makes it, in slices: reads of the samples cannot keep up within their budget.
import { arrayBytes, count, run } from './count.mjs';
let sum = 0;
function parse(until) { let made = 0; do { for (let n = 0; n < 200; n++) sum += new Array(60).fill(n).length; made += 200; } while (performance.now() < until); count('parse', made * arrayBytes(60)); }
function format(until) { let made = 0; do { for (let n = 0; n < 200; n++) sum += new Array(20).fill(n).length; made += 200; } while (performance.now() < until); count('format', made * arrayBytes(20)); }
run(25, () => { parse(performance.now() + 12); format(performance.now() + 6); }, { verdict: 'steady', alone: true });
