// A subscription of 200 KB a second is never let go, beside lively churn.
import { arrayBytes, count, LINK, run } from './count.mjs';
let subscriptions = null;
function subscribe() { subscriptions = { next: subscriptions, level: new Array(500).fill(1) }; count('subscribe', LINK + arrayBytes(500), LINK + arrayBytes(500)); }
let sum = 0;
function readLevels() { for (let n = 0; n < 60; n++) { const levels = new Array(200).fill(n); sum += levels.length; } count('readLevels', 60 * arrayBytes(200)); }
run(20, () => { subscribe(); readLevels(); }, { verdict: 'growing', top: 'subscribe' });
