const LEAST_PLACES = 64;
/** Of this share of its places a table is full: beyond it the ways to a free one grow long. */
const MOST_FULL = 0.6;
/** Answered for an id that is not there. */
export const NO_ROW = 0xfffffffe;
const FREE = NO_ROW;

/** Ids of a page, which stand beside each other. */
const PAGE = 512;
const FIRST_PAGES = 16;
/** Of so many pages, two million ids, the last that came are kept. */
const MOST_PAGES = 4096;
/** Where this many pages have held fewer ids than this on average, ids are too far apart for pages. */
const LOOKED_AT_PAGES = 256;
const LEAST_IN_PAGE = 8;

/**
 * Rows by the ids of what stands in them; ids are whole numbers that a double holds exactly. Ids mostly rise by little,
 * and what is born mostly dies soon: the pages of the last ids are plain columns, so that what comes together stands
 * together in memory. What is left of a page that makes room goes to a table of ids in any order.
 *
 * Invariant: an id whose page is kept is in that page and nowhere else; a page is made once, for ids above all before.
 */
export class RowIndex {
  private readonly far = new ScatteredRows();
  private cells = new Uint32Array(FIRST_PAGES * PAGE).fill(FREE);
  /** Which page stands in each place, NaN for none, and how many ids it holds. */
  private pageAt = new Float64Array(FIRST_PAGES).fill(NaN);
  private held = new Uint32Array(FIRST_PAGES);
  private lastPage = -1;
  private isScattered = false;
  private opened = 0;
  private added = 0;
  private near = 0;

  /** Number of ids. */
  get size(): number {
    return this.near + this.far.size;
  }

  /** Row of an id; NO_ROW for one that is not there. */
  get(id: number): number {
    const cell = this.cellOf(id);
    return cell < 0 ? this.far.get(id) : this.cells[cell]!;
  }

  /** Adds an id that is not there; answers false, and changes nothing, for one that is. */
  add(id: number, row: number): boolean {
    let cell = this.cellOf(id);
    if (cell < 0) {
      const page = Math.floor(id / PAGE);
      if (!(page > this.lastPage) || this.isScattered || !this.open(page)) return this.far.add(id, row);
      cell = this.cellOf(id);
    }
    if (this.cells[cell] !== FREE) return false;
    this.cells[cell] = row;
    this.held[(cell / PAGE) | 0]!++;
    this.near++;
    this.added++;
    return true;
  }

  /** Takes an id out, if it is there. */
  delete(id: number): void {
    const cell = this.cellOf(id);
    if (cell < 0) this.far.delete(id);
    else if (this.cells[cell] !== FREE) {
      this.cells[cell] = FREE;
      this.held[(cell / PAGE) | 0]!--;
      this.near--;
    }
  }

  clear(): void {
    this.far.clear();
    this.cells = new Uint32Array(FIRST_PAGES * PAGE).fill(FREE);
    this.pageAt = new Float64Array(FIRST_PAGES).fill(NaN);
    this.held = new Uint32Array(FIRST_PAGES);
    this.lastPage = -1;
    this.isScattered = false;
    this.opened = this.added = this.near = 0;
  }

  /** Goes through every row, in no order. */
  forEachRow(visit: (row: number) => void): void {
    for (const row of this.cells) if (row !== FREE) visit(row);
    this.far.forEachRow(visit);
  }

  /** Rows have moved: the one at `row` is at `places[row]` now, NONE where it was left out. */
  moveRows(places: Uint32Array): void {
    const { cells } = this;
    for (let at = 0; at < cells.length; at++) if (cells[at] !== FREE) cells[at] = places[cells[at]!]!;
    this.far.moveRows(places);
  }

  // Negative where the page of the id is not kept.
  private cellOf(id: number): number {
    const page = Math.floor(id / PAGE);
    const place = page & (this.pageAt.length - 1);
    return this.pageAt[place] === page ? place * PAGE + (id - page * PAGE) : -1;
  }

  // Makes a page, above all before; false where ids have turned out to be too far apart.
  private open(page: number): boolean {
    if (++this.opened % LOOKED_AT_PAGES === 0) {
      if (this.added < LEAST_IN_PAGE * LOOKED_AT_PAGES) {
        this.scatter();
        return false;
      }
      this.added = 0;
    }
    while (this.held[page & (this.pageAt.length - 1)]! > 0 && this.pageAt.length < MOST_PAGES) this.grow();
    const place = page & (this.pageAt.length - 1);
    if (this.held[place]! > 0) this.evict(place);
    this.pageAt[place] = page;
    this.lastPage = page;
    return true;
  }

  private evict(place: number): void {
    const { cells, far } = this;
    const first = this.pageAt[place]! * PAGE;
    for (let at = place * PAGE; at < (place + 1) * PAGE; at++) {
      if (cells[at] === FREE) continue;
      far.add(first + at - place * PAGE, cells[at]!);
      cells[at] = FREE;
    }
    this.near -= this.held[place]!;
    this.held[place] = 0;
    this.pageAt[place] = NaN;
  }

  private scatter(): void {
    for (let place = 0; place < this.pageAt.length; place++) if (this.held[place]! > 0) this.evict(place);
    this.pageAt.fill(NaN);
    this.isScattered = true;
  }

  private grow(): void {
    const { cells, pageAt, held } = this;
    const pages = 2 * pageAt.length;
    this.cells = new Uint32Array(pages * PAGE).fill(FREE);
    this.pageAt = new Float64Array(pages).fill(NaN);
    this.held = new Uint32Array(pages);
    for (let from = 0; from < pageAt.length; from++) {
      if (held[from] === 0) continue;
      const to = pageAt[from]! & (pages - 1);
      this.cells.set(cells.subarray(from * PAGE, (from + 1) * PAGE), to * PAGE);
      this.pageAt[to] = pageAt[from]!;
      this.held[to] = held[from]!;
    }
  }
}

/**
 * Rows by ids in any order. Open addressing in two columns: a third of the memory of a map, and faster where ids come
 * and go by the million.
 */
class ScatteredRows {
  private ids = new Float64Array(LEAST_PLACES);
  private rows = new Uint32Array(LEAST_PLACES).fill(FREE);
  private mask = LEAST_PLACES - 1;
  private count = 0;

  /** Number of ids. */
  get size(): number {
    return this.count;
  }

  /** Row of an id; NO_ROW for one that is not there. */
  get(id: number): number {
    return this.rows[this.placeOf(id)]!;
  }

  /** Adds an id that is not there; answers false, and changes nothing, for one that is. */
  add(id: number, row: number): boolean {
    if ((this.count + 1) / (this.mask + 1) > MOST_FULL) this.grow();
    const place = this.placeOf(id);
    if (this.rows[place] !== FREE) return false;
    this.ids[place] = id;
    this.rows[place] = row;
    this.count++;
    return true;
  }

  /** Takes an id out, if it is there. */
  delete(id: number): void {
    let free = this.placeOf(id);
    if (this.rows[free] === FREE) return;
    this.count--;
    // What stands behind and would have stood here moves up, so that no way to it is broken.
    for (let place = (free + 1) & this.mask; this.rows[place] !== FREE; place = (place + 1) & this.mask) {
      const wanted = this.firstPlaceOf(this.ids[place]!);
      if (((place - wanted) & this.mask) < ((place - free) & this.mask)) continue;
      this.ids[free] = this.ids[place]!;
      this.rows[free] = this.rows[place]!;
      free = place;
    }
    this.rows[free] = FREE;
  }

  clear(): void {
    this.ids = new Float64Array(LEAST_PLACES);
    this.rows = new Uint32Array(LEAST_PLACES).fill(FREE);
    this.mask = LEAST_PLACES - 1;
    this.count = 0;
  }

  /** Goes through every row, in no order. */
  forEachRow(visit: (row: number) => void): void {
    for (const row of this.rows) if (row !== FREE) visit(row);
  }

  /** Rows have moved: the one at `row` is at `places[row]` now, NONE where it was left out. */
  moveRows(places: Uint32Array): void {
    for (let place = 0; place < this.rows.length; place++)
      if (this.rows[place] !== FREE) this.rows[place] = places[this.rows[place]!]!;
  }

  // Where the id is, or the free place at which it would be put.
  private placeOf(id: number): number {
    let place = this.firstPlaceOf(id);
    while (this.rows[place] !== FREE && this.ids[place] !== id) place = (place + 1) & this.mask;
    return place;
  }

  private firstPlaceOf(id: number): number {
    const hash = Math.imul((id >>> 0) ^ Math.imul(Math.floor(id / 2 ** 32), 0x85ebca6b), 0x9e3779b1);
    return (hash ^ (hash >>> 15)) & this.mask;
  }

  private grow(): void {
    const [ids, rows] = [this.ids, this.rows];
    this.mask = this.mask * 2 + 1;
    this.ids = new Float64Array(this.mask + 1);
    this.rows = new Uint32Array(this.mask + 1).fill(FREE);
    for (let at = 0; at < rows.length; at++) {
      if (rows[at] === FREE) continue;
      const place = this.placeOf(ids[at]!);
      this.ids[place] = ids[at]!;
      this.rows[place] = rows[at]!;
    }
  }
}
