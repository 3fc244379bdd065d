import { RUNTIMES } from '../runtimes/registry.ts';
import { cpythonGc } from './cpython-gc/cpython-parser.ts';
import { goTrace } from './go-trace/go-parser.ts';
import { jvmInventory } from './jvm-inventory/jvm-inventory.ts';
import { jvmPrinted } from './jvm-printed/printed-parser.ts';
import { jvmUnified } from './jvm-unified/jvm-parser.ts';
import type { Format } from './log-parser.ts';
import { rubyProfiler } from './ruby-profiler/ruby-parser.ts';
import { streamFormat } from './stream/stream-format.ts';
import { v8Inventory } from './v8-inventory/v8-inventory.ts';
import { v8Trace } from './v8-trace/v8-parser.ts';

/** Every format that can be read; a new one is a folder beside this file and a line here. */
export const FORMATS: readonly Format[] = registered([
  streamFormat,
  jvmUnified,
  jvmPrinted,
  v8Trace,
  goTrace,
  cpythonGc,
  rubyProfiler,
  jvmInventory,
  v8Inventory,
]);

/** What the formats are, for messages. */
export const FORMATS_IN_WORDS = FORMATS.map(({ words }, at) =>
  at === 0 ? words : at === FORMATS.length - 1 ? `, or ${words}` : `, ${words}`,
).join('');

// A mistake in a registration is one of a programmer: it shows when anything is read at all.
function registered(formats: readonly Format[]): readonly Format[] {
  const names = new Set(formats.map(({ name }) => name));
  if (names.size < formats.length) throw new Error('expected formats of different names');
  for (const { name, words, runtime, detect } of formats) {
    if (words === '') throw new Error(`expected format ${name} to say in words what it is`);
    if (runtime !== null && !RUNTIMES.includes(runtime))
      throw new Error(`expected the runtime of ${name} to be registered`);
    if (detect([]) !== 0) throw new Error(`expected format ${name} to find nothing in nothing`);
  }
  return formats;
}

/** The format whose signs are densest in the first lines; null when none has any. */
export function detectFormat(headLines: readonly string[]): Format | null {
  let best: Format | null = null;
  let bestShare = 0;
  for (const format of FORMATS) {
    const share = format.detect(headLines);
    if (share > bestShare) {
      best = format;
      bestShare = share;
    }
  }
  return best;
}
