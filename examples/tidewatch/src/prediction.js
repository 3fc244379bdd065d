/** Predicts the tide from a year's tables and the last readings of every gauge. */
const KEPT = 720;
const HOURS = 365 * 24;

/** The year's table of a gauge, by the hour: read once, kept for as long as the service runs. */
function yearTable(gauge) {
  return Array.from({ length: HOURS }, (_, hour) => ({ gauge, hour, level: 2.4 + 1.6 * Math.sin((hour / 12.42) * 2 * Math.PI) }));
}

export class TidePrediction {
  readings = new Map();
  tables;

  constructor(gauges) {
    this.tables = new Map(gauges.map((gauge) => [gauge, yearTable(gauge)]));
  }

  add(gauge, level) {
    let kept = this.readings.get(gauge);
    if (kept === undefined) this.readings.set(gauge, (kept = { levels: new Float64Array(KEPT), next: 0 }));
    kept.levels[kept.next++ % KEPT] = level;
  }

  /** The level expected at the next high water, per gauge. */
  highWater() {
    return [...this.readings].map(([gauge, { levels }]) => ({ gauge, level: Math.max(...levels) }));
  }
}
