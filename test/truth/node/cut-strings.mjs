// Short pieces of long lines are kept, and with them the lines.
import { count, LINK, run } from './count.mjs';
let pieces = null;
let n = 0;
function readLine() { return Buffer.alloc(4000, 65 + (n++ % 26)).latin1Slice(0, 4000); }
function keepPiece() { const line = readLine(); pieces = { next: pieces, level: line.slice(10, 40) }; count('readLine', 4016, 4016); count('keepPiece', LINK + 32, LINK + 32); }
run(10, () => { for (let k = 0; k < 3; k++) keepPiece(); }, { verdict: 'growing', top: 'readLine', skip: ['keepPiece', 'readLine'] });
