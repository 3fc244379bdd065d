// Hard churn hides a leak of 100 KB a second.
import { arrayBytes, count, LINK, run } from './count.mjs';
let kept = null;
let sum = 0;
function keepBulletin() { kept = { next: kept, level: new Array(250).fill(1) }; count('keepBulletin', LINK + arrayBytes(250), LINK + arrayBytes(250)); }
function churn(until) { let made = 0; do { for (let n = 0; n < 200; n++) sum += new Array(100).fill(n).length; made += 200; } while (performance.now() < until); count('churn', made * arrayBytes(100)); }
run(20, () => { churn(performance.now() + 10); keepBulletin(); }, { verdict: 'growing', top: 'keepBulletin', alone: true });
