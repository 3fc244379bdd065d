import { channel } from 'node:diagnostics_channel';
import { Worker, isMainThread } from 'node:worker_threads';

if (isMainThread) {
  channel('brisk-heron:mark').publish('import done');
  new Worker(new URL(import.meta.url));
}
setTimeout(() => {}, 700);
