// Buffers of 20 KB are kept, others come and go: memory outside the heap.
import { count, run } from './count.mjs';
const kept = [];
let sum = 0;
function keepFrame() { kept.push(Buffer.alloc(20_000)); count('keepFrame', 20_000, 20_000); }
function readFrame() { for (let n = 0; n < 3; n++) sum += Buffer.allocUnsafe(50_000).length; count('readFrame', 150_000); }
function mapChart() { sum += new ArrayBuffer(100_000).byteLength; count('mapChart', 100_000); }
run(20, () => { keepFrame(); readFrame(); mapChart(); }, { verdict: 'any', outside: 'growing', top: 'keepFrame' });
