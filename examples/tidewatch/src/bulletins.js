/** Flood bulletins, one for every report period. With the fault, those of all periods stay cached. */
export class Bulletins {
  cache = new Map();
  #period = 0;

  constructor({ keepAll }) {
    this.keepAll = keepAll;
  }

  issue(prediction) {
    if (!this.keepAll) this.cache.clear();
    this.cache.set(this.#period++, this.render(prediction));
  }

  render(prediction) {
    const pages = [];
    for (const { gauge, level } of prediction.highWater()) {
      for (let hour = 0; hour < 400; hour++) pages.push({ gauge, hour, level, advice: level > 4 ? ['move boats', gauge] : ['none', gauge] });
    }
    return pages;
  }
}
