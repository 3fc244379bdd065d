import type { Format } from './log-parser.ts';
import { jvmUnified } from './jvm-unified/jvm-parser.ts';
import { jvmPrinted } from './jvm-printed/printed-parser.ts';
import { cpythonGc } from './cpython-gc/cpython-parser.ts';
import { goTrace } from './go-trace/go-parser.ts';
import { rubyProfiler } from './ruby-profiler/ruby-parser.ts';
import { streamFormat } from './stream/stream-format.ts';
import { v8Trace } from './v8-trace/v8-parser.ts';

/** Every format that can be read; a new one is a folder beside this file and a line here. */
export const FORMATS: readonly Format[] = [
  streamFormat,
  jvmUnified,
  jvmPrinted,
  v8Trace,
  goTrace,
  cpythonGc,
  rubyProfiler,
];

/** What the formats are, for messages. */
export const FORMATS_IN_WORDS =
  "a recording of this tool, an OpenJDK unified log (-Xlog:gc or -Xlog:gc*, any collector), what JDK 8 prints with -XX:+PrintGC or -XX:+PrintGCDetails, Node --trace-gc output, Go gctrace=1 lines, CPython gc.DEBUG_STATS lines, or the raw data of Ruby's GC::Profiler";

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
