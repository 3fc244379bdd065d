/**
 * The readings of the last seconds, for the mean level that is shown beside the tide. With the fault every reading is kept as an object of
 * its own until the window has slid past it: just long enough to be promoted. Without it the window keeps sums.
 */
export class SlidingWindow {
  #slots = [];
  #sum = 0;
  #count = 0;

  constructor({ keepReadings, slots }) {
    this.keepReadings = keepReadings;
    this.slots = slots;
  }

  /** Begins a new slot and lets the oldest go. */
  slide() {
    this.#slots.push(this.keepReadings ? [] : { sum: 0, count: 0 });
    if (this.#slots.length <= this.slots) return;
    const oldest = this.#slots.shift();
    if (this.keepReadings) for (const reading of oldest) this.#take(reading.level, -1);
    else {
      this.#sum -= oldest.sum;
      this.#count -= oldest.count;
    }
  }

  add(reading) {
    const slot = this.#slots[this.#slots.length - 1];
    this.#take(reading.level, 1);
    if (this.keepReadings) slot.push({ gauge: reading.gauge, level: reading.level, seen: slot.length });
    else {
      slot.sum += reading.level;
      slot.count++;
    }
  }

  get mean() {
    return this.#count === 0 ? 0 : this.#sum / this.#count;
  }

  #take(level, sign) {
    this.#sum += sign * level;
    this.#count += sign;
  }
}
