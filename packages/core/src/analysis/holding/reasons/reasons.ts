import type { Holding } from '../holding.ts';
import { alikeKeyReasons } from './alike-keys.ts';
import { classLoaderReasons } from './class-loaders.ts';
import { keptTypeReasons } from './kept-types.ts';
import { listenerReasons } from './listeners.ts';
import type { Reason, ReasonRule } from './reason.ts';
import { boxReasons, duplicateReasons, emptyReasons } from './wasted.ts';

/** Less than this, and than this share of what stays, is nothing to speak of. */
const LEAST_BYTES = 64 * 1024;
const LEAST_SHARE = 0.01;

/** Every rule; a new one is a file beside this and a name here. */
const RULES: readonly ReasonRule[] = [
  listenerReasons,
  keptTypeReasons,
  classLoaderReasons,
  alikeKeyReasons,
  duplicateReasons,
  boxReasons,
  emptyReasons,
];

/** Usual reasons why much stays, those that hold most first. Some passes over objects and references for each rule. */
export function reasonsOf(holding: Holding, source: 'jvm' | 'v8', isWhole = true): Reason[] {
  const leastBytes = Math.max(LEAST_BYTES, LEAST_SHARE * holding.dominators.heldBytes[0]!);
  return RULES.flatMap((rule) => rule({ holding, source, isWhole, leastBytes })).sort(
    (a, b) => b.heldBytes - a.heldBytes,
  );
}
