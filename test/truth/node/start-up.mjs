// 30 MB are loaded in the first seconds, then nothing is kept any more.
import { arrayBytes, count, run } from './count.mjs';
const tables = [];
let sum = 0;
function loadTable() { tables.push(new Array(20_000).fill(1)); count('loadTable', arrayBytes(20_000), arrayBytes(20_000)); }
function readLevels() { for (let n = 0; n < 60; n++) sum += new Array(200).fill(n).length; count('readLevels', 60 * arrayBytes(200)); }
run(20, () => { if (tables.length < 190) loadTable(); readLevels(); }, { verdict: 'flat' });
