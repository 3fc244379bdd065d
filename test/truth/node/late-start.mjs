// A parser starts to churn after a third of the time.
import { arrayBytes, count, LINK, run } from './count.mjs';
let kept = null;
let sum = 0;
function early() { for (let n = 0; n < 60; n++) sum += new Array(200).fill(n).length; count('early', 60 * arrayBytes(200)); }
function late() { for (let n = 0; n < 200; n++) sum += new Array(200).fill(n).length; count('late', 200 * arrayBytes(200)); }
function keepNote() { kept = { next: kept, level: new Array(300).fill(1) }; count('keepNote', LINK + arrayBytes(300), LINK + arrayBytes(300)); }
run(20, (_, t) => { keepNote(); early(); if (t > 1 / 3) late(); }, { verdict: 'growing', top: 'keepNote' });
