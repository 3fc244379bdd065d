// A window fills to 20 MB and is cleared, again and again: what lives rises and falls, and nothing stays.
import { arrayBytes, count, release, run } from './count.mjs';
let window = [];
let sum = 0;
function addReading() {
  if (window.length === 250) { release('addReading', 250 * arrayBytes(10_000)); window = []; }
  window.push(new Array(10_000).fill(1));
  count('addReading', arrayBytes(10_000), arrayBytes(10_000));
}
function readLevels() { for (let n = 0; n < 60; n++) sum += new Array(200).fill(n).length; count('readLevels', 60 * arrayBytes(200)); }
run(20, () => { addReading(); readLevels(); }, { verdict: 'not-growing', skip: ['addReading'] });
