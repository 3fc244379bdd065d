// A report of 3 MB is cached every four seconds.
import { arrayBytes, count, LINK, run } from './count.mjs';
let reports = null;
let next = 4000;
let sum = 0;
function cacheReport() { for (let n = 0; n < 1500; n++) reports = { next: reports, level: new Array(250).fill(n) }; count('cacheReport', 1500 * (LINK + arrayBytes(250)), 1500 * (LINK + arrayBytes(250))); }
function churn() { for (let n = 0; n < 40; n++) sum += new Array(200).fill(n).length; count('churn', 40 * arrayBytes(200)); }
run(20, () => { churn(); if (performance.now() > next) { next += 4000; cacheReport(); } }, { verdict: 'rising', top: 'cacheReport' });
