import { type RuntimeTraits, UNKNOWN_RUNTIME } from '../model/runtime-traits.ts';

/** CPython: its cycle collector, whose message ends with the line that says it is done. */
export const CPYTHON: RuntimeTraits = {
  ...UNKNOWN_RUNTIME,
  name: 'cpython',
  fits: /^CPython/,
  oldSpaces: new Set(),
  linesOfCollection: { before: 3 },
};
