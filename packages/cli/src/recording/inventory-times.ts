/** When inventories are taken without being asked for. */
export interface InventoryTimes {
  /** At every mark of this label; '' for none. */
  readonly mark: string;
  /** When what is left after a collection reaches so much of the limit, in per cent; 0 for never. */
  readonly percent: number;
  /** When the heap can give no more. */
  readonly outOfMemory: boolean;
}

/** Never. */
const NO_INVENTORIES: InventoryTimes = { mark: '', percent: 0, outOfMemory: false };
const OUT_OF_MEMORY = 'out-of-memory';

/** Reads what the command line was given: `90%`, `out-of-memory`, or the label of a mark. */
export function inventoryTimes(given: readonly string[] = []): InventoryTimes {
  let times = NO_INVENTORIES;
  for (const when of given) {
    const percent = Number(/^(\d+(?:\.\d+)?)\s*%$/.exec(when)?.[1]);
    if (when === OUT_OF_MEMORY) times = { ...times, outOfMemory: true };
    else if (Number.isNaN(percent)) times = { ...times, mark: when };
    else if (percent >= 1 && percent <= 100) times = { ...times, percent: Math.round(percent) };
    else throw new Error(`expected --inventory-at with 1% to 100%, found "${when}"`);
  }
  return times;
}
