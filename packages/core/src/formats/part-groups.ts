import { Decorations, findDecorations } from './jvm-unified/decorations.ts';
import { isRecordingHeader } from './recording-file/container.ts';
import { orderParts } from './part-order.ts';
import { readTraceLine } from './v8-trace/trace-line.ts';

/** A file that was given: its name, its size, and the texts that it begins and ends with (64 KiB are enough). */
export interface PartFile {
  readonly name: string;
  readonly bytes: number;
  readonly head: string;
  readonly tail: string;
}

/**
 * Files that hold one run of one program, as places among those given, in order of time; and files that are the same as
 * one of these.
 */
export interface PartGroup {
  readonly files: readonly number[];
  readonly copies: readonly number[];
}

/** What a file says of the run that it is of. */
interface Identity {
  readonly kind: 'recording' | 'jvm' | 'v8' | 'other';
  /** Of the process: a stream's heap, a log's pid, '' where nothing tells. */
  readonly process: string;
  /** True where the run begins in the file. */
  readonly begins: boolean;
  readonly firstMs: number;
  readonly lastMs: number;
  readonly firstId: number;
  readonly lastId: number;
  /** Wall clock of the JVM's start, where both clocks are printed. */
  readonly startEpochMs: number;
}

/** Stamps of one log may run back by this at a rotation. */
const BACK_MS = 50;
/** The wall clock may be set while a program runs. */
const SAME_START_MS = 5000;

/**
 * Which files belong together. The parts of one rotated log follow each other by their clock and the numbers of their
 * collections, and are of one process; a recording is a file of its own. Where nothing in them tells, names do:
 * `gc.log.0` goes with `gc.log`. Whatever is left is several runs.
 */
export function groupParts(parts: readonly PartFile[]): PartGroup[] {
  const identities = parts.map(identityOf);
  const order = orderParts(parts.map((part) => part.head));
  const groups: { files: number[]; copies: number[] }[] = [];
  for (const place of order) {
    const same = groups.find((group) => group.files.some((file) => isCopy(parts[file]!, parts[place]!)));
    if (same !== undefined) {
      same.copies.push(place);
      continue;
    }
    const before = groups.findLast((group) => follows(parts, identities, group.files.at(-1)!, place));
    if (before === undefined) groups.push({ files: [place], copies: [] });
    else before.files.push(place);
  }
  return groups;
}

function isCopy(a: PartFile, b: PartFile): boolean {
  return a.bytes === b.bytes && a.bytes > 0 && a.head === b.head && a.tail === b.tail;
}

function follows(parts: readonly PartFile[], identities: readonly Identity[], last: number, next: number): boolean {
  const [a, b] = [identities[last]!, identities[next]!];
  if (a.kind !== b.kind || b.begins) return false;
  if (a.kind === 'recording') return a.process !== '' && a.process === b.process;
  if (a.process !== b.process) return false;
  if (Math.abs(a.startEpochMs - b.startEpochMs) > SAME_START_MS) return false;
  if (b.firstMs < a.lastMs - BACK_MS || b.firstId < a.lastId) return false;
  const isTold =
    !Number.isNaN(a.startEpochMs + b.startEpochMs) ||
    a.process !== '' ||
    !Number.isNaN(a.lastMs + b.firstMs + a.lastId + b.firstId);
  return isTold || baseName(parts[last]!.name) === baseName(parts[next]!.name);
}

// "gc.log.3.gz", "gc-2.log" and "gc.log" are of one name.
function baseName(name: string): string {
  return name
    .replace(/\.gz$/, '')
    .replace(/(?:[._-]\d+)+(?=\.[a-z]+$|$)/i, '')
    .replace(/\.current$/, '');
}

function identityOf({ head, tail }: PartFile): Identity {
  const none = { process: '', begins: false, firstMs: NaN, lastMs: NaN, firstId: NaN, lastId: NaN, startEpochMs: NaN };
  const start = head.trimStart();
  if (isRecordingHeader(start.slice(0, 64))) return { ...none, kind: 'recording', begins: true };
  const heap = /^\{.*?"h":"((?:[^"\\]|\\.)*)"/m.exec(start.slice(0, 4096));
  if (start.startsWith('{') && heap !== null)
    return { ...none, kind: 'recording', process: heap[1]!, begins: start.slice(0, 4096).includes('"k":"hello"') };
  return jvmIdentity(head, tail) ?? v8Identity(head, tail) ?? { ...none, kind: 'other' };
}

interface Stamped {
  readonly uptimeMs: number;
  readonly epochMs: number;
  readonly gcId: number;
  readonly pid: string;
}

function jvmIdentity(head: string, tail: string): Identity | null {
  const lines = head.split('\n');
  const first = lines.map(stampedLine).find((line) => line !== null);
  if (first === undefined || first === null) return null;
  const ends = tail
    .split('\n')
    .map(stampedLine)
    .filter((line) => line !== null);
  const last = ends.at(-1) ?? first;
  const ms = (line: Stamped): number => (Number.isNaN(line.uptimeMs) ? line.epochMs : line.uptimeMs);
  return {
    kind: 'jvm',
    process: first.pid,
    begins: lines.slice(0, 20).some((line) => BEGINS.test(line)),
    firstMs: ms(first),
    lastMs: ms(last),
    firstId: lines.map(stampedLine).find((line) => line !== null && !Number.isNaN(line.gcId))?.gcId ?? NaN,
    lastId: ends.reduce((most, line) => (line.gcId > most || Number.isNaN(most) ? line.gcId : most), NaN),
    startEpochMs: first.epochMs - first.uptimeMs,
  };
}

/** What a JVM prints of its collector before anything else. */
const BEGINS =
  /\] (?:Using (?:G1|Parallel|Serial|Shenandoah|Epsilon|The Z Garbage Collector)\s*$|Initializing The Z|Version: \d)/;

function stampedLine(line: string): Stamped | null {
  const decorations = new Decorations();
  const at = line.startsWith('[') ? 0 : findDecorations(line);
  if (at < 0 || !decorations.read(line, at)) return null;
  const { uptimeMs, epochMs } = decorations;
  if (Number.isNaN(uptimeMs) && Number.isNaN(epochMs)) return null;
  const id = /GC\((\d+)\)/.exec(line);
  return {
    uptimeMs,
    epochMs,
    gcId: id === null ? NaN : Number(id[1]),
    pid: /^(?:\[[^\]]*\])*?\[(\d+)\](?=\[)/.exec(line.slice(at))?.[1] ?? '',
  };
}

function v8Identity(head: string, tail: string): Identity | null {
  const stamps = (text: string): { pid: string; ms: number }[] =>
    text.split('\n').flatMap((line) => {
      const trace = readTraceLine(line);
      return trace === null ? [] : [{ pid: /\[(\d+)[:\]]/.exec(line)?.[1] ?? '', ms: trace.stampMs }];
    });
  const [first] = stamps(head);
  if (first === undefined) return null;
  const last = stamps(tail).at(-1) ?? first;
  return {
    kind: 'v8',
    process: first.pid,
    begins: false,
    firstMs: first.ms,
    lastMs: last.ms,
    firstId: NaN,
    lastId: NaN,
    startEpochMs: NaN,
  };
}
