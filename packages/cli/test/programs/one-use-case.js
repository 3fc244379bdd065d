// Has births told while one use case runs, and not after; what it kept is let go later. Then it starts over.
import { channel } from 'node:diagnostics_channel';

const births = channel('brisk-heron:births');
const [STEPS_MS, LIST] = [50, 200];
// Of its size from the start: one that grows leaves its outgrown storage to die, as the use case's own once it is optimized.
const kept = new Array(12_000).fill(null);
let next = 0;

function useCase() {
  for (let n = 0; n < 100; n++) kept[next++] = new Array(LIST).fill(n);
}

function unwatched() {
  for (let n = 0; n < 100; n++) kept[next++] = new Array(LIST).fill(n);
}

let step = 0;
const timer = setInterval(() => {
  step++;
  if (step <= 20) useCase();
  if (step === 20) births.publish(false);
  if (step > 20 && step <= 60) unwatched();
  // The first half of what the use case left goes.
  if (step === 40) kept.fill(null, 0, 1000);
  // On a busy machine the recorder's own collections are seldom.
  if (step === 50) globalThis.gc();
  if (step === 60) births.publish(true);
  if (step > 60 && step <= 80) useCase();
  if (step === 80) channel('brisk-heron:start-over').publish(null);
  if (step > 80) useCase();
  if (step === 120) clearInterval(timer);
}, STEPS_MS);
