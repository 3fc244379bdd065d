import { type RuntimeTraits, UNKNOWN_RUNTIME } from '../model/runtime-traits.ts';
import { CPYTHON } from './cpython.ts';
import { GO } from './go.ts';
import { JVM } from './jvm.ts';
import { RUBY } from './ruby.ts';
import { V8 } from './v8.ts';

/** Every runtime whose words are known; a new one is a file beside this one and a line here. */
export const RUNTIMES: readonly RuntimeTraits[] = [JVM, V8, GO, CPYTHON, RUBY];

/** The runtime that a stream names in its first line. */
export function runtimeOf(name: string): RuntimeTraits {
  return RUNTIMES.find(({ fits }) => fits.test(name)) ?? UNKNOWN_RUNTIME;
}
