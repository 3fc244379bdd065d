// A child that keeps all it makes dies when its 64 MB are full; its parent lives on.
import { fork } from 'node:child_process';
import { seconds, tell } from './count.mjs';
if (process.argv[3] === 'leak') {
  const kept = [];
  const perTurn = Math.ceil((64e6 / (seconds * 0.8) / 50) / 8);
  setInterval(() => { kept.push(new Array(perTurn).fill(1)); }, 20);
} else {
  await new Promise((ended) => fork(process.argv[1], [String(seconds), 'leak'], { execArgv: ['--max-old-space-size=64'], stdio: 'ignore' }).once('exit', ended));
  tell({ verdict: 'growing', outOfMemory: true });
}
