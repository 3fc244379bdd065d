import { snippet } from '../../base/issues.ts';
import { LineSplitter } from '../../base/line-splitter.ts';
import { isTime } from '../../model/domain.ts';
import type { Recording } from '../../model/recording.ts';
import { JVM } from '../../runtimes/jvm.ts';
import { readSafepoint } from '../jvm-unified/detail-message.ts';
import type { Format, FormatParser } from '../log-parser.ts';
import { unwrapLine } from '../unwrap-line.ts';
import { readConcurrentStep, readPrintedRecord } from './printed-record.ts';
import { PrintedRun } from './printed-run.ts';

/** What JDKs up to 8 print with `-XX:+PrintGC` or `PrintGCDetails`: Serial, Parallel, CMS and G1. */
export const jvmPrinted: Format = {
  name: 'jvm-printed',
  words: 'what JDK 8 prints with -XX:+PrintGC or -XX:+PrintGCDetails',
  runtime: JVM,
  detect: (headLines) =>
    headLines.filter((line) => BEGIN.test(line) && !line.includes('] GC(')).length / Math.max(1, headLines.length),
  createParser: () => new PrintedParser(),
};

// 2026-11-23T05:55:13.577+0000: 151.126: [GC (Allocation Failure) …
const BEGIN =
  /(?:(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}[+-]\d{4}): )?(?:(\d+[.,]\d{3}): )?(\[(?:GC|Full GC)(?:--)?[ \]]|\[CMS-concurrent-)/;
const STAMPED_LINE =
  /^(?:\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}[+-]\d{4}: )?(?:\d+[.,]\d{3}: )?(?:\[|Total time|Application time|$)/;
/** Lines that may stand inside a collection: its table of ages, G1's details, what CMS adds. */
const CONTINUES = /^(?:\s+[[(:]|: |Desired survivor|- age|\(|\[(?:Times|Metaspace|Perm|Class Histogram))/;
const MOST_RECORD_CHARACTERS = 256 * 1024;
const OPTION_LIMIT = /-XX:MaxHeapSize=(\d+)/;
const OPTION_COLLECTOR = /-XX:\+Use(G1|Parallel|ParallelOld|ConcMarkSweep|Serial)GC/;

interface OpenRecord {
  text: string;
  readonly stampMs: number;
  readonly line: number;
  readonly offset: number;
}

class PrintedParser implements FormatParser {
  private readonly done: PrintedRun[] = [];
  private run = new PrintedRun();
  private record: OpenRecord | null = null;
  private dateOriginMs = NaN;
  private readonly splitter: LineSplitter;

  constructor() {
    this.splitter = new LineSplitter((line, number, offset) => this.take(unwrapLine(line), number, offset), {
      encoding: 'windows-1252',
      onLong: (line, byteOffset) =>
        this.issue(
          'line-too-long',
          line,
          byteOffset,
          'expected lines of at most 4 MiB; the rest of this one was dropped',
        ),
    });
  }

  get runs(): readonly Recording[] {
    return [...this.done, this.run].filter((run) => run.hasEvents).map((run) => run.recording);
  }

  write(chunk: Uint8Array): void {
    this.splitter.write(chunk);
    this.count();
  }

  end(): void {
    this.splitter.end();
    this.closeRecord();
    this.count();
    for (const run of [...this.done, this.run]) run.recording.ended = true;
  }

  private count(): void {
    for (const { recording } of [...this.done, this.run]) {
      recording.bytes = this.splitter.bytes;
      recording.lines = this.splitter.lines;
    }
  }

  private take(line: string, number: number, offset: number): void {
    if (this.continues(line)) return;
    const begin = line.includes('[') ? BEGIN.exec(line) : null;
    if (begin === null) {
      // Anything else is the program's own, and may stand in the middle of a collection.
      if (!this.takeHeader(line)) this.takeStopped(line, number);
      return;
    }
    const at = begin.index + begin[0].length - begin[3]!.length;
    const stampMs = this.stampOf(begin[1], begin[2]);
    if (!isTime(stampMs))
      return this.issue(
        'absurd-time',
        number,
        offset,
        `expected a time within ten years of the beginning, found ${snippet(line)}; is the line damaged? It was left out`,
      );
    const step = readConcurrentStep(line.slice(at));
    if (step !== null) {
      // Printed by another thread, perhaps in the middle of a collection's line.
      if (this.record !== null && begin.index > 0) this.record.text += line.slice(0, begin.index);
      else if (this.record !== null && depthOf(this.record.text) === 0) this.closeRecord();
      this.run.addConcurrentStep(step.label, step.durationMs, stampMs);
      return;
    }
    this.closeRecord();
    if (this.run.isBefore(stampMs)) this.startRun();
    this.record = { text: line.slice(at), stampMs, line: number, offset };
  }

  private continues(line: string): boolean {
    if (this.record === null) return false;
    const open = depthOf(this.record.text) > 0;
    if (!CONTINUES.test(line) && !(open && !STAMPED_LINE.test(line))) return false;
    if (this.record.text.length + line.length < MOST_RECORD_CHARACTERS) this.record.text += `\n${line}`;
    return true;
  }

  private closeRecord(): void {
    const { record } = this;
    this.record = null;
    if (record === null) return;
    const read = readPrintedRecord(record.text);
    if (read !== null) this.run.addRecord(read, record.stampMs, record.line, record.offset);
    else
      this.issue(
        'cut-line',
        record.line,
        record.offset,
        `expected "[GC … -> … , … secs]", found ${snippet(record.text)}; is the line cut off? The collection was left out`,
      );
  }

  private takeHeader(line: string): boolean {
    if (line.startsWith('OpenJDK ') || line.startsWith('Java HotSpot')) {
      this.closeRecord();
      if (this.run.hasEvents) this.startRun();
      const version = /JRE \(([^)]+)\)/.exec(line);
      if (version !== null) this.run.recording.runtime = `OpenJDK ${version[1]}`;
      return true;
    }
    if (!line.startsWith('CommandLine flags: ')) return false;
    const limit = OPTION_LIMIT.exec(line);
    if (limit !== null) this.run.setLimit(Number(limit[1]));
    const collector = OPTION_COLLECTOR.exec(line);
    if (collector !== null)
      this.run.recording.collector = collector[1] === 'ConcMarkSweep' ? 'CMS' : collector[1]!.replace('Old', '');
    return true;
  }

  private takeStopped(line: string, number: number): void {
    if (!line.includes('application threads were stopped')) return;
    const stopped = readSafepoint(line);
    const stamp = /(?:(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}[+-]\d{4}): )?(?:(\d+\.\d{3}): )?Total time/.exec(line);
    this.closeRecord();
    if (stopped !== null)
      this.run.addSafepoint(stopped.reachMs, stopped.totalMs, this.stampOf(stamp?.[1], stamp?.[2]), number);
  }

  private startRun(): void {
    this.done.push(this.run);
    this.run = new PrintedRun();
    this.dateOriginMs = NaN;
  }

  private stampOf(date: string | undefined, uptime: string | undefined): number {
    const epochMs = date === undefined ? NaN : Date.parse(`${date.slice(0, -2)}:${date.slice(-2)}`);
    const uptimeMs = uptime === undefined ? NaN : Math.round(Number(uptime.replace(',', '.')) * 1e6) / 1e3;
    const { recording } = this.run;
    if (Number.isNaN(recording.startEpochMs) && !Number.isNaN(epochMs))
      recording.startEpochMs = Number.isNaN(uptimeMs) ? epochMs : epochMs - uptimeMs;
    if (!Number.isNaN(uptimeMs) || Number.isNaN(epochMs)) return uptimeMs;
    if (Number.isNaN(this.dateOriginMs)) this.dateOriginMs = epochMs;
    return epochMs - this.dateOriginMs;
  }

  private issue(code: string, line: number, byteOffset: number, message: string): void {
    this.run.recording.issues.add({ code, line, byteOffset, message: `gc log line ${line}: ${message}` });
  }
}

// Brackets open at the end of the text.
function depthOf(text: string): number {
  let depth = 0;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === 91) depth++;
    else if (code === 93) depth--;
  }
  return depth;
}
