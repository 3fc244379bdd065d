/** Predicts the tide from the last readings of every gauge. */
const KEPT = 720;

export class TidePrediction {
  readings = new Map();

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
