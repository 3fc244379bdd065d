/** What an inventory of a running program takes: docs/inventories.md has the measurements. */
export interface InventoryCost {
  /** For how long the program stands still. */
  readonly pauseMs: number;
  /** Memory beside the heap meanwhile. */
  readonly memoryBytes: number;
  readonly fileBytes: number;
}

const JVM = { msPerByte: 9000 / 2 ** 30, memoryRatio: 0, fileRatio: 2 };
const V8 = { msPerByte: 150 / 2 ** 20, memoryRatio: 11, fileRatio: 3 };
/** Collections before it take so long at least. */
const LEAST_MS = 100;

/** What an inventory of a heap that uses so many bytes takes at most, as a rule; NaN where that is not known. */
export function inventoryCost(source: 'jvm' | 'v8', heapBytes: number): InventoryCost {
  const { msPerByte, memoryRatio, fileRatio } = source === 'jvm' ? JVM : V8;
  return {
    pauseMs: Math.max(LEAST_MS, heapBytes * msPerByte),
    memoryBytes: memoryRatio * heapBytes,
    fileBytes: fileRatio * heapBytes,
  };
}
