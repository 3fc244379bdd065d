import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import { InputReader } from '../../src/formats/input-reader.ts';
import { orderParts } from '../../src/formats/part-order.ts';
import type { Recording } from '../../src/model/recording.ts';
import { fileBytes, lastRun } from './read-input.ts';

interface Figures {
  readonly pauses: {
    readonly count: number;
    readonly sum_ms: number;
    readonly max_ms: number | null;
    readonly p50_ms_nearest_rank: number | null;
    readonly p99_ms_nearest_rank: number | null;
  };
  readonly full_collections: number;
  readonly concurrent_cycles?: { readonly count: number };
  readonly heap?: { readonly peak_used_bytes?: number; readonly used_after_last_bytes?: number };
  readonly alloc_estimate_bytes?: number;
  readonly alloc_true_bytes_threads?: number;
  readonly safepoints?: { readonly count: number; readonly total_ms: number };
  readonly uptime_last_s?: number;
}

interface Truth extends Partial<Figures> {
  readonly files?: readonly string[];
  /** Of a damaged log: its figures, those of its runs, or whose figures it has. */
  readonly expected?: Partial<Figures> & {
    readonly see?: string;
    readonly run1?: Figures;
    readonly run2?: Figures;
    readonly jvm1?: Figures;
    readonly jvm2?: Figures;
  };
}

const CORPUS = join(__dirname, '../../../../../shared/corpus');
/**
 * Logs of safepoints alone name no pause: the collector's stops are taken for pauses, and the truth counts the stops.
 */
const SAFEPOINTS_ALONE = /safepointonly/;
/** Each Go cycle is both a whole collection and a concurrent one in the truth; here it is a concurrent one. */
const BOTH = /^go/;
/** Whoever reads the file unpacks it, as far as it goes: the command line's and the browser's tests do. */
const CUT_GZIP = /truncated/;
/**
 * Times of worker isolates are placed on the main isolate's clock, so the end is later than the last stamp as printed.
 */
const OWN_CLOCKS = /workers/;

const present = existsSync(join(CORPUS, 'truth.json'));
const truths = present
  ? Object.entries(JSON.parse(readFileSync(join(CORPUS, 'truth.json'), 'utf8')) as Record<string, Truth>)
  : [];
const whole = truths.filter(
  (entry): entry is [string, Truth & Figures] =>
    !SAFEPOINTS_ALONE.test(entry[0]) && entry[1].files !== undefined && entry[1].pauses !== undefined,
);
const damaged = truths.filter(([, truth]) => truth.expected !== undefined && !CUT_GZIP.test(truth.files![0]!));

function readFiles(truth: Truth): readonly Recording[] {
  const parts = truth.files!.map((file) => fileBytes(join(CORPUS, file)));
  const order = orderParts(parts.map((bytes) => Buffer.from(bytes.subarray(0, 65_536)).toString('latin1')));
  const reader = new InputReader();
  for (const part of order) reader.write(parts[part]!);
  const result = reader.end();
  return result.ok ? result.runs : [];
}

function expectFigures(name: string, recording: Recording, truth: Figures): void {
  const report = analysisReport(recording);
  expect(report.pauses.count).toBe(truth.pauses.count);
  expect(report.pauses.totalMs).toBeCloseTo(truth.pauses.sum_ms, 2);
  expect(report.pauses.maxMs).toBe(truth.pauses.max_ms);
  expect(report.pauses.p50Ms).toBe(truth.pauses.p50_ms_nearest_rank);
  expect(report.pauses.p99Ms).toBe(truth.pauses.p99_ms_nearest_rank);
  if (!BOTH.test(name)) expect(report.collections.whole).toBe(truth.full_collections);
  if (truth.concurrent_cycles !== undefined)
    expect(report.collections.concurrentCycles).toBe(truth.concurrent_cycles.count);
  if (truth.heap?.peak_used_bytes !== undefined) expect(report.heap.peakUsedBytes).toBe(truth.heap.peak_used_bytes);
  if (truth.heap?.used_after_last_bytes !== undefined)
    expect(report.heap.lastUsedAfterBytes).toBe(truth.heap.used_after_last_bytes);
  if (truth.alloc_estimate_bytes !== undefined) expectAllocation(recording, report.allocation!.totalBytes, truth);
}

// Where the log prints what was allocated while a cycle ran, the figure is nearer to the threads' own count.
function expectAllocation(recording: Recording, totalBytes: number, truth: Figures): void {
  const { col, length } = recording.tables.releases;
  if (!col.allocatedBytes.subarray(0, length).some((bytes) => bytes >= 0)) {
    expect(totalBytes).toBe(truth.alloc_estimate_bytes);
    return;
  }
  expect(totalBytes).toBeGreaterThan(truth.alloc_estimate_bytes!);
  // Printed in whole MiB, so that of a program that hardly allocates little can be said.
  if (truth.alloc_estimate_bytes! > 100 * 1024 * 1024)
    expect(totalBytes / truth.alloc_true_bytes_threads!).toBeLessThan(1.05);
}

(present ? describe : describe.skip)(
  present ? 'corpus' : 'the corpus is not on this machine: its logs are not checked',
  () => {
    test('has the logs that are read', () => {
      expect(whole.length).toBeGreaterThan(120);
    });

    test.each(whole)('%s: the figures equal the truth', (name, truth) => {
      const recording = readFiles(truth).at(-1)!;
      expectFigures(name, recording, truth);
      if ((truth.uptime_last_s ?? 0) > 0 && truth.files!.length === 1 && !OWN_CLOCKS.test(name)) {
        expect(Math.abs(recording.durationMs - truth.uptime_last_s! * 1000)).toBeLessThan(50);
      }
    });

    test.each(truths.filter(([, truth]) => truth.safepoints !== undefined && (truth.files?.length ?? 0) === 1))(
      '%s: stops of every thread equal the truth',
      (_name, truth) => {
        const { safepoints, pauses } = readFiles(truth).at(-1)!.tables;
        expect(safepoints.length).toBe(truth.safepoints!.count);
        const sum = (column: Float64Array, length: number): number =>
          column.subarray(0, length).reduce((total, ms) => total + ms, 0);
        expect(sum(safepoints.col.totalMs, safepoints.length)).toBeCloseTo(truth.safepoints!.total_ms, 1);
        expect(sum(safepoints.col.reachMs, safepoints.length)).toBeLessThan(truth.safepoints!.total_ms);
        expect(pauses.length).toBeGreaterThan(0);
      },
    );

    test.each(damaged)('%s: what is good of it equals the truth', (name, truth) => {
      const expected = truth.expected!;
      const runs = readFiles(truth);
      const each = [expected.run1 ?? expected.jvm1, expected.run2 ?? expected.jvm2].filter(
        (figures) => figures !== undefined,
      );
      if (each.length > 0) {
        expect(runs.length).toBe(each.length);
        each.forEach((figures, run) => expectFigures(name, runs[run]!, figures));
      } else if (expected.see !== undefined)
        expectFigures(name, runs[0]!, truths.find(([each]) => each === expected.see)![1] as Figures);
      else if ((expected.pauses?.count ?? 0) > 0) expectFigures(name, runs[0]!, expected as Figures);
    });

    test.each([
      ['damaged/cut-mid-line-heap.log', { 'cut-line': 1 }],
      ['damaged/node-crlf.log', {}],
      ['damaged/nul-hole.log', {}],
      ['damaged/non-utf8.log', {}],
      ['damaged/blank-lines-trailing-space.log', {}],
      ['damaged/cut-head.log', {}],
    ])('%s keeps what is good and counts the rest', (file, byCode) => {
      const reader = new InputReader();
      reader.write(fileBytes(join(CORPUS, 'logs', file)));
      const recording = lastRun(reader.end());
      expect(recording.tables.pauses.length).toBeGreaterThan(5);
      expect(recording.issues.byCode).toEqual(byCode);
    });

    test.each(['damaged/empty.log', 'damaged/no-gc-lines.log'])('%s is refused with what was expected', (file) => {
      const reader = new InputReader();
      reader.write(fileBytes(join(CORPUS, 'logs', file)));
      const result = reader.end();
      expect(result.ok).toBe(false);
      if (!result.ok) expect(result.message).toMatch(/expected a recording of this tool, an OpenJDK unified log/);
    });

    test.each(['damaged/two-runs-two-collectors.log', 'damaged/crash-then-restart.log'])(
      '%s gives two runs',
      (file) => {
        const reader = new InputReader();
        reader.write(fileBytes(join(CORPUS, 'logs', file)));
        const result = reader.end();
        expect(result.ok && result.runs.length).toBe(2);
      },
    );
  },
);
