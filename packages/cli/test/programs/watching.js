// Keeps what is known to be kept, and has an inventory taken at its mark; with a worker that keeps as well.
import { channel } from 'node:diagnostics_channel';
import { EventEmitter } from 'node:events';
import { isMainThread, Worker } from 'node:worker_threads';

class Alerts {
  watch = new Map();
  bus = new EventEmitter().setMaxListeners(0);

  subscribe(n) {
    const readings = new Array(40).fill(n);
    this.watch.set(n, () => readings.length);
    if (n % 10 === 0) this.listen(n);
    if (n % 50 === 0) this.remind(n);
  }

  remind(n) {
    const days = new Array(400).fill(n);
    setTimeout(() => days[1], 1e8).unref();
  }

  listen(n) {
    const tides = new Array(100).fill(n);
    this.bus.on('tide', function onTide() {
      return tides[0];
    });
  }
}
class Pilot {
  log = new Array(100).fill(1);
}

const alerts = new Alerts();
const pilots = [];
if (isMainThread) {
  const worker = new Worker(new URL(import.meta.url));
  for (let n = 0; n < 8000; n++) alerts.subscribe(n);
  channel('brisk-heron:mark').publish('full');
  setTimeout(() => {
    for (let n = 8000; n < 12_000; n++) alerts.subscribe(n);
    channel('brisk-heron:mark').publish('full');
    setTimeout(() => worker.terminate(), Number(process.argv[2] ?? 500));
  }, 600);
} else {
  for (let n = 0; n < 3000; n++) pilots.push(new Pilot());
  setInterval(() => pilots.length, 100);
}
