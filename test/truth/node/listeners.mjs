// A listener with its closure is added to an emitter at every reconnect.
import { EventEmitter } from 'node:events';
import { arrayBytes, count, run } from './count.mjs';
const gauge = new EventEmitter();
gauge.setMaxListeners(0);
function reconnect() { const level = new Array(1000).fill(1); gauge.on('tide', () => level.length); count('reconnect', arrayBytes(1000) + 64, arrayBytes(1000) + 64); }
run(20, () => reconnect(), { verdict: 'growing', top: 'reconnect' });
