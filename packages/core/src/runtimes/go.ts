import { ANY_COLLECTOR, type RuntimeTraits, UNKNOWN_RUNTIME } from '../model/runtime-traits.ts';

/** Go. */
export const GO: RuntimeTraits = {
  ...UNKNOWN_RUNTIME,
  name: 'go',
  fits: /^Go\b/,
  oldSpaces: new Set(),
  collectors: [{ ...ANY_COLLECTOR, kind: 'go', roomForYoung: 'a larger heap', capacityIsHeap: false }],
};
