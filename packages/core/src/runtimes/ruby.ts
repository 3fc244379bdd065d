import { type RuntimeTraits, UNKNOWN_RUNTIME } from '../model/runtime-traits.ts';

/** CRuby. */
export const RUBY: RuntimeTraits = { ...UNKNOWN_RUNTIME, name: 'ruby', fits: /^(?:C?Ruby)/, oldSpaces: new Set() };
