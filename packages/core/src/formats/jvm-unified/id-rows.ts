import { NONE } from '../../base/ids.ts';

/** Ids beyond this many times the ones that are known, and a few more, are looked up by hash. */
const DENSE_RATIO = 4;
const FEW = 4096;

/**
 * Rows by the id that a collector gave: ids rise by one as a rule, so that most rows lie where their id says. A log may
 * begin at any id, and a damaged line may say any.
 */
export class IdRows {
  private dense = new Uint32Array(64).fill(NONE);
  private readonly others = new Map<number, number>();
  private count = 0;

  /** Row of an id; NONE for one without. */
  get(id: number): number {
    if (this.isDense(id)) return this.dense[id]!;
    return this.others.size === 0 ? NONE : (this.others.get(id) ?? NONE);
  }

  set(id: number, row: number): void {
    if (id >= this.dense.length && id < DENSE_RATIO * this.count + FEW) this.growTo(Math.ceil(id));
    if (this.isDense(id)) this.dense[id] = row;
    else this.others.set(id, row);
    this.count++;
  }

  delete(id: number): void {
    if (this.isDense(id)) this.dense[id] = NONE;
    else this.others.delete(id);
  }

  // A damaged line may say a fraction.
  private isDense(id: number): boolean {
    return id >>> 0 === id && id < this.dense.length;
  }

  private growTo(id: number): void {
    const grown = new Uint32Array(Math.max(id + 1, 2 * this.dense.length)).fill(NONE, this.dense.length);
    grown.set(this.dense);
    this.dense = grown;
    for (const [other, row] of this.others) {
      if (!this.isDense(other)) continue;
      grown[other] = row;
      this.others.delete(other);
    }
  }
}
