import { z } from 'zod';
import { snippet } from '../../base/issues.ts';
import { CollectionFlag, Scope } from '../../model/tables.ts';
import { RUBY } from '../../runtimes/ruby.ts';
import { ByteJson } from '../byte-json.ts';
import { LineLog } from '../line-log.ts';
import type { Format } from '../log-parser.ts';

/** Ruby's `GC::Profiler`: its raw data as JSON, one object a line or all in one array, and its printed report. */
export const rubyProfiler: Format = {
  name: 'ruby-profiler',
  words: "the raw data of Ruby's GC::Profiler",
  runtime: RUBY,
  detect: (headLines) =>
    headLines.filter((line) => line.includes('"GC_INVOKE_TIME"') || REPORT_HEAD.test(line) || REPORT_ROW.test(line))
      .length / Math.max(1, headLines.length),
  createParser: () => {
    const json = new ByteJson();
    const log: LineLog = new LineLog(
      'ruby-profiler',
      { runtime: 'Ruby', traits: RUBY },
      (line, number, offset) => take(log, line, number, offset),
      (batch, from, to, number) => {
        const record = json.read(batch, from, to) ? recordIn(json) : null;
        if (record !== null) add(log, record, number);
        return record !== null;
      },
    );
    log.recording.collector = 'Ruby';
    log.recording.notes.push({
      tMs: 0,
      code: 'cpu-clock',
      message:
        'Ruby stamps its collections with the CPU time of the process, not with the time of day: shares and rates are of CPU time',
    });
    return log;
  },
};

const REPORT_HEAD = /Invoke Time\(sec\)\s+Use Size\(byte\)/;
//     1               0.130               719400               867080                21677         0.39370100000002406
const REPORT_ROW = /^\s*\d+\s+(\d+\.\d+)\s+(\d+)\s+(\d+)\s+(\d+)\s+(\d+\.\d+)\s*$/;

const recordSchema = z.object({
  GC_TIME: z.number().nonnegative(),
  GC_INVOKE_TIME: z.number().nonnegative(),
  HEAP_USE_SIZE: z.number().nonnegative(),
  HEAP_TOTAL_SIZE: z.number().nonnegative(),
  GC_FLAGS: z.object({ major_by: z.string().nullish(), gc_by: z.string().nullish() }).optional(),
});
type RubyRecord = z.infer<typeof recordSchema>;

// A record as the runtime writes it; null for what is to be read, checked and refused as any other text.
function recordIn({ names, within, values, objects }: ByteJson): RubyRecord | null {
  if (objects.length !== 1 || objects[0] !== 'GC_FLAGS') return null;
  const record = { GC_TIME: NaN, GC_INVOKE_TIME: NaN, HEAP_USE_SIZE: NaN, HEAP_TOTAL_SIZE: NaN };
  const flags: { major_by: string | null; gc_by: string | null } = { major_by: null, gc_by: null };
  for (let member = 0; member < names.length; member++) {
    const name = names[member]!;
    const value = values[member]!;
    if (within[member] === 'GC_FLAGS') {
      if (name !== 'major_by' && name !== 'gc_by') continue;
      if (typeof value !== 'string' && value !== null) return null;
      flags[name] = value;
    } else if (within[member] !== '' || typeof value === 'string' || name === 'GC_FLAGS') return null;
    else if (
      name === 'GC_TIME' ||
      name === 'GC_INVOKE_TIME' ||
      name === 'HEAP_USE_SIZE' ||
      name === 'HEAP_TOTAL_SIZE'
    ) {
      if (typeof value !== 'number' || value < 0 || !Number.isFinite(value)) return null;
      record[name] = value;
    }
  }
  const { GC_TIME, GC_INVOKE_TIME, HEAP_USE_SIZE, HEAP_TOTAL_SIZE } = record;
  if (Number.isNaN(GC_TIME + GC_INVOKE_TIME + HEAP_USE_SIZE + HEAP_TOTAL_SIZE)) return null;
  return { GC_TIME, GC_INVOKE_TIME, HEAP_USE_SIZE, HEAP_TOTAL_SIZE, GC_FLAGS: flags };
}

function take(log: LineLog, line: string, number: number, offset: number): void {
  const row = REPORT_ROW.exec(line);
  if (row !== null) {
    add(
      log,
      {
        GC_TIME: Number(row[5]) / 1000,
        GC_INVOKE_TIME: Number(row[1]),
        HEAP_USE_SIZE: Number(row[2]),
        HEAP_TOTAL_SIZE: Number(row[3]),
      },
      number,
    );
    return;
  }
  if (!line.includes('"GC_INVOKE_TIME"')) return;
  const found = recordsOf(line);
  if (found === null)
    log.issue(
      'cut-line',
      number,
      offset,
      `expected the profiler's raw data as JSON, found ${snippet(line)}; is the line cut off? It was left out`,
    );
  else for (const each of found) add(log, each, number);
}

function recordsOf(line: string): RubyRecord[] | null {
  const from = line.search(/[[{]/);
  try {
    const value: unknown = JSON.parse(line.slice(from).replace(/,\s*$/, ''));
    const checked = z.array(recordSchema).safeParse(Array.isArray(value) ? value : [value]);
    return checked.success ? checked.data : null;
  } catch {
    return null;
  }
}

function add(log: LineLog, record: RubyRecord, line: number): void {
  const startMs = Math.round(record.GC_INVOKE_TIME * 1e9) / 1e6;
  const pauseMs = Math.round(record.GC_TIME * 1e9) / 1e6;
  if (log.refuses({ startMs, endMs: startMs + pauseMs, pauseMs }, line, NaN)) return;
  const majorBy = record.GC_FLAGS?.major_by ?? null;
  const label = record.GC_FLAGS === undefined ? 'GC' : majorBy === null ? 'minor GC' : 'major GC';
  log.add({
    startMs,
    endMs: startMs + pauseMs,
    pauseMs,
    label,
    cause: majorBy ?? record.GC_FLAGS?.gc_by ?? '',
    scope: majorBy === null ? Scope.young : Scope.whole,
    flags: record.GC_FLAGS?.gc_by === 'method' ? CollectionFlag.explicit : 0,
    line,
  });
  log.addUsed(startMs, record.HEAP_USE_SIZE);
}
