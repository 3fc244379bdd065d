/** Addresses of one page are looked through together. */
const PAGE_BYTES = 4096;
export const NOT_THERE = 0xffffffff;
const LEAST_SLOTS = 1024;

/**
 * Finds objects by their address. A JVM writes its heap down in long stretches of rising addresses, so that the parts of
 * a stretch on one page are found through a table of pages, and looked through by halves. Linear to build.
 */
export class AddressIndex {
  private readonly address: Float64Array;
  private readonly pages: Float64Array;
  private readonly firstRun: Uint32Array;
  private readonly runStart: Uint32Array;
  private readonly nextRun: Uint32Array;
  private readonly mask: number;

  constructor(address: Float64Array) {
    this.address = address;
    const starts = runStarts(address);
    this.runStart = starts;
    const runs = starts.length - 1;
    let slots = LEAST_SLOTS;
    while (slots < runs * 2) slots *= 2;
    this.mask = slots - 1;
    this.pages = new Float64Array(slots).fill(-1);
    this.firstRun = new Uint32Array(slots);
    this.nextRun = new Uint32Array(runs);
    for (let run = runs - 1; run >= 0; run--) {
      const page = pageOf(address[starts[run]!]!);
      const slot = this.slotOf(page);
      this.nextRun[run] = this.pages[slot] === page ? this.firstRun[slot]! : NOT_THERE;
      this.pages[slot] = page;
      this.firstRun[slot] = run;
    }
  }

  /** Place of an address in the column; NOT_THERE for one that is in no object's place. */
  at(address: number): number {
    const page = pageOf(address);
    const slot = this.slotOf(page);
    if (this.pages[slot] !== page) return NOT_THERE;
    for (let run = this.firstRun[slot]!; run !== NOT_THERE; run = this.nextRun[run]!) {
      let low = this.runStart[run]!;
      let high = this.runStart[run + 1]!;
      while (low < high) {
        const middle = (low + high) >>> 1;
        if (this.address[middle]! < address) low = middle + 1;
        else high = middle;
      }
      if (low < this.runStart[run + 1]! && this.address[low] === address) return low;
    }
    return NOT_THERE;
  }

  private slotOf(page: number): number {
    let slot = (Math.imul(page % 0x7fffffff, 0x9e3779b1) >>> 7) & this.mask;
    while (this.pages[slot] !== -1 && this.pages[slot] !== page) slot = (slot + 1) & this.mask;
    return slot;
  }
}

const pageOf = (address: number): number => Math.floor(address / PAGE_BYTES);

// Where a page ends or addresses fall, and the end of all.
function runStarts(address: Float64Array): Uint32Array {
  let runs = 0;
  const isStart = (at: number): boolean =>
    at === 0 || address[at]! < address[at - 1]! || pageOf(address[at]!) !== pageOf(address[at - 1]!);
  for (let at = 0; at < address.length; at++) if (isStart(at)) runs++;
  const starts = new Uint32Array(runs + 1);
  for (let at = 0, run = 0; at < address.length; at++) if (isStart(at)) starts[run++] = at;
  starts[runs] = address.length;
  return starts;
}
