// Keeps what is known to be kept: handlers in a map, links in a chain, listeners of an emitter, and one weakly.
import { EventEmitter } from 'node:events';

class Handler {
  body = new Array(20).fill(7);
}
class AlertService {
  watch = new Map();
}
class Link {
  next = null;
}
class Tide {
  rows = new Array(30).fill(1);

  listen(bus) {
    bus.on('tide', () => this.rows.length);
  }
}
class Forgotten {
  bulk = new Array(100).fill(0);
}

const service = new AlertService();
for (let n = 0; n < 5000; n++) service.watch.set(n, new Handler());
let chain = null;
for (let n = 0; n < 50_000; n++) chain = Object.assign(new Link(), { next: chain });
const bus = new EventEmitter().setMaxListeners(0);
for (let n = 0; n < 800; n++) new Tide().listen(bus);
const weak = new WeakRef(new Forgotten());

setInterval(() => [service.watch.size, chain.next, bus.listenerCount('tide'), weak], 1000);
setTimeout(() => console.log(`ready ${process.pid}`), 200);
