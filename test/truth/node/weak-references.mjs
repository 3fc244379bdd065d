// Objects behind weak references die, though the table of references stays.
import { arrayBytes, count, LINK, run } from './count.mjs';
let table = null;
function remember() { for (let n = 0; n < 10; n++) table = { next: table, level: new WeakRef(makeLevel()) }; }
function makeLevel() { count('makeLevel', arrayBytes(400)); return new Array(400).fill(1); }
void LINK;
run(20, () => remember(), { verdict: 'growing', top: 'remember', skip: ['remember'] });
