// Millions of small objects, one in fifty kept.
import { count, objectBytes, run } from './count.mjs';
let kept = null;
let sum = 0;
function makePoint(n) { return { next: null, height: n }; }
function survey() { for (let n = 0; n < 5000; n++) { const point = makePoint(n); sum += point.height; if (n % 50 === 0) { point.next = kept; kept = point; } } count('makePoint', 5000 * objectBytes(2), 100 * objectBytes(2)); }
run(10, () => survey(), { verdict: 'growing', top: 'makePoint' });
