// A cache of 2,000 bulletins turns over: it is full after a third of the time.
import { arrayBytes, count, release, run } from './count.mjs';
const cache = new Array(2000).fill(null);
function cacheBulletin(n) { for (let k = 0; k < 4; k++) { const at = (n * 4 + k) % 2000; if (cache[at] !== null) release('cacheBulletin', arrayBytes(600)); cache[at] = new Array(600).fill(k); } count('cacheBulletin', 4 * arrayBytes(600), 4 * arrayBytes(600)); }
run(10, (n) => cacheBulletin(n), { verdict: 'flat' });
