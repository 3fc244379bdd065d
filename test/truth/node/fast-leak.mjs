// Four megabytes a second stay.
import { arrayBytes, count, LINK, run } from './count.mjs';
let kept = null;
function keepReadings() { for (let n = 0; n < 20; n++) kept = { next: kept, level: new Array(500).fill(n) }; count('keepReadings', 20 * (LINK + arrayBytes(500)), 20 * (LINK + arrayBytes(500))); }
run(20, () => keepReadings(), { verdict: 'growing', top: 'keepReadings' });
