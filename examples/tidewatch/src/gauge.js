/** One tide gauge: sends its readings as lines of text and now and then loses its connection. */
export class Gauge {
  #minute = 0;

  constructor(name, number) {
    this.name = name;
    this.number = number;
  }

  /** The next readings as the gauge would send them. */
  lines(count) {
    const lines = [];
    for (let at = 0; at < count; at++) {
      const level = 2.6 + 1.9 * Math.sin((this.#minute++ + this.number * 7) / 118.6);
      lines.push(`${this.name};${this.#minute};${level.toFixed(3)};m;ok`);
    }
    return lines;
  }

  reconnect(alerts) {
    this.#minute += 1;
    alerts.subscribe(this);
  }
}
