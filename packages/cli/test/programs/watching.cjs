// Keeps what is known to be kept, and has an inventory taken at its mark; with a worker that keeps as well.
const { channel } = require('node:diagnostics_channel');
const { EventEmitter } = require('node:events');
const { isMainThread, Worker } = require('node:worker_threads');

class Alerts {
  watch = new Map();
  bus = new EventEmitter().setMaxListeners(0);

  subscribe(n) {
    const readings = new Array(40).fill(n);
    this.watch.set(n, () => readings.length);
    if (n % 10 === 0)
      this.bus.on('tide', function onTide() {
        return readings[0];
      });
    if (n % 50 === 0) setTimeout(() => readings[1], 1e8).unref();
  }
}
class Pilot {
  log = new Array(100).fill(1);
}

const alerts = new Alerts();
const pilots = [];
if (isMainThread) {
  const worker = new Worker(__filename);
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
