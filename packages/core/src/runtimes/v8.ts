import { ANY_COLLECTOR, type RuntimeTraits, UNKNOWN_RUNTIME } from '../model/runtime-traits.ts';

/** V8, as Node.js runs it. */
export const V8: RuntimeTraits = {
  ...UNKNOWN_RUNTIME,
  name: 'v8',
  fits: /^Node|V8/,
  oldSpaces: new Set(['Old space', 'old_space']),
  largeSpaces: new Set(['Large object space', 'large_object_space', 'lo_space']),
  causes: { ...UNKNOWN_RUNTIME.causes, outside: /^(?:external memory pressure|external finalize)/ },
  collectors: [{ ...ANY_COLLECTOR, kind: 'v8', roomForYoung: 'a larger semi-space', resizesByDesign: true }],
};
