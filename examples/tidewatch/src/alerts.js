/** Flood alerts: who wants to know about which level of which gauge. */
const rules = Array.from({ length: 40 }, (_, number) => ({ number, level: 3.2 + number * 0.05, text: `level ${number}` }));

export class Alerts {
  watch = new Map();
  raised = 0;
  #serial = 0;

  constructor({ forget }) {
    this.forget = forget;
  }

  /** Subscribes a gauge's connection to every rule. With the fault, the subscription of its last connection stays. */
  subscribe(gauge) {
    const key = this.forget ? gauge.name : `${gauge.name} ${this.#serial++}`;
    const handlers = [];
    for (const rule of rules) {
      const history = new Array(64).fill(rule.level);
      handlers.push((level) => {
        history[gauge.number] = level;
        return level > rule.level;
      });
    }
    this.watch.set(key, handlers);
  }

  check(reading) {
    if (reading.level > 4.9) this.raised++;
  }
}
