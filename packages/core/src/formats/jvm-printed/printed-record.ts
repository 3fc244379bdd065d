import { isPause } from '../../model/domain.ts';
import { unitBytes } from '../scan-number.ts';

/** Sizes before and after, and the capacity, in bytes; NaN where not printed. */
export interface PrintedSizes {
  readonly beforeBytes: number;
  readonly afterBytes: number;
  readonly capacityBytes: number;
  /** Step in which they are printed. */
  readonly resolutionBytes: number;
}

/** A space as a line of JDK 8 prints it, in bytes. */
export interface PrintedSpace extends PrintedSizes {
  readonly name: string;
}

/** One collection, or one step of a concurrent cycle, as printed. */
export interface PrintedRecord {
  /**
   * `GC (Allocation Failure)`, `GC pause (G1 Evacuation Pause) (young)`, `Full GC (System.gc())`,
   * `CMS-concurrent-mark`.
   */
  readonly label: string;
  readonly cause: string;
  readonly durationMs: number;
  readonly sizes: PrintedSizes | null;
  readonly spaces: readonly PrintedSpace[];
  readonly ages: readonly { readonly age: number; readonly bytes: number }[];
  readonly cpu: { readonly userMs: number; readonly sysMs: number; readonly realMs: number } | null;
  /** Survivors, or promoted objects, found no room. */
  readonly failed: boolean;
}

const SIZES = /(\d+(?:\.\d+)?)([BKMG])->(\d+(?:\.\d+)?)([BKMG])\((\d+(?:\.\d+)?)([BKMG])\)/;
const OF_G1 =
  /(\w+): (\d+(?:\.\d+)?)([BKMG])(?:\((\d+(?:\.\d+)?)([BKMG])\))?->(\d+(?:\.\d+)?)([BKMG])(?:\((\d+(?:\.\d+)?)([BKMG])\))?/g;
const TIMES = /\[Times: user=(\d+\.\d+) sys=(\d+\.\d+),? real=(\d+\.\d+) secs\]/;
const AGE = /^- age\s+(\d+):\s+(\d+) bytes,\s+\d+ total\s*$/gm;
const CONCURRENT = /^\[(CMS-concurrent-[\w-]+|GC concurrent-[\w-]+)(?:: [\d.]+\/([\d.]+) secs|, ([\d.]+) secs)?\]?/;
const FAILED = /promotion failed|to-space (?:exhausted|overflow)|\[(?:GC|PSYoungGen)--/;

/** A step of a concurrent cycle, `[CMS-concurrent-mark: 0.035/0.041 secs]`; null for any other text. */
export function readConcurrentStep(text: string): { readonly label: string; readonly durationMs: number } | null {
  const found = CONCURRENT.exec(text);
  if (found === null) return null;
  const seconds = found[2] ?? found[3];
  return { label: found[1]!, durationMs: seconds === undefined ? NaN : toMs(seconds) };
}

/** Takes a collection apart, from its first bracket on, its lines joined by line ends; null when it is not whole. */
export function readPrintedRecord(text: string): PrintedRecord | null {
  const plain = text
    .replace(TIMES, '')
    .replace(/^Desired survivor size.*$/gm, '')
    .replace(AGE, '');
  const groups = topGroups(plain);
  const [first, ...rest] = groups;
  if (first === undefined || !first.closed) return null;
  const duration = /,\s*(\d+\.\d+) secs\s*$/.exec(first.own);
  if (duration === null || !isPause(toMs(duration[1]!))) return null;
  const spaces = [first, ...rest]
    .flatMap((group) => group.inner)
    .map(spaceOf)
    .filter((space) => space !== null);
  const detail = rest.map((group) => sizesOfG1(group.own)).find((each) => each.length > 0) ?? [];
  const heap = detail.find((space) => space.name === 'Heap');
  const label = labelOf(first.own);
  const times = TIMES.exec(text);
  return {
    label,
    cause: causeOf(label),
    durationMs: toMs(duration[1]!),
    sizes: heap ?? sizesOf(first.own) ?? usedAlone(first.own),
    spaces: [
      ...spaces,
      ...rest.map((group) => spaceOf(group.own)).filter((space) => space !== null),
      ...detail.filter((space) => space.name !== 'Heap'),
    ],
    ages: [...text.matchAll(AGE)].map((row) => ({ age: Number(row[1]), bytes: Number(row[2]) })),
    cpu: times === null ? null : { userMs: toMs(times[1]!), sysMs: toMs(times[2]!), realMs: toMs(times[3]!) },
    failed: FAILED.test(text),
  };
}

interface Group {
  /** What stands in the brackets, without that of brackets inside. */
  readonly own: string;
  /** What stands in the brackets directly inside it, each with all that it holds. */
  readonly inner: readonly string[];
  readonly closed: boolean;
}

// Splits "[a [b] c] [d]" into the groups a…c (with b inside) and d. Linear.
function topGroups(text: string): Group[] {
  const groups: Group[] = [];
  let depth = 0;
  let own = '';
  let inner: string[] = [];
  let innerFrom = 0;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === 91) {
      if (++depth === 2) innerFrom = at + 1;
    } else if (code === 93 && depth > 0) {
      if (--depth === 1) inner.push(text.slice(innerFrom, at));
      if (depth > 0) continue;
      groups.push({ own, inner, closed: true });
      own = '';
      inner = [];
    } else if (depth === 1) own += text[at];
  }
  if (depth > 0) groups.push({ own, inner, closed: false });
  return groups;
}

// "GC (Allocation Failure) 151.126:  1619346K->…" gives "GC (Allocation Failure)".
function labelOf(own: string): string {
  const end = own.search(/\s+-?\d|,\s*\d|:\s|\s{2,}/);
  return (end < 0 ? own : own.slice(0, end)).replace(/--$/, '').trim();
}

/** Cause in a printed label: its first group in parentheses, which may hold parentheses. */
function causeOf(label: string): string {
  const from = label.indexOf('(');
  let depth = 0;
  for (let at = from; at >= 0 && at < label.length; at++) {
    if (label[at] === '(') depth++;
    else if (label[at] === ')' && --depth === 0) {
      const cause = label.slice(from + 1, at);
      return cause === 'young' || cause === 'mixed' ? '' : cause;
    }
  }
  return '';
}

function sizesOf(text: string): PrintedSizes | null {
  const all = [...text.matchAll(new RegExp(SIZES, 'g'))];
  const found = all[all.length - 1];
  if (found === undefined) return null;
  return sized(found[1]!, found[2]!, found[3]!, found[4]!, Number(found[5]) * unitBytes(found[6]!.charCodeAt(0)));
}

// Initial mark and remark of CMS tell what is used, and give nothing back: "10887844K(12514816K), 0.0001997 secs".
function usedAlone(text: string): PrintedSizes | null {
  const found = /(?:^|\s)(\d+)([KMG])\((\d+)([KMG])\),\s*[\d.]+ secs\s*$/.exec(text);
  return found === null
    ? null
    : sized(found[1]!, found[2]!, found[1]!, found[2]!, Number(found[3]) * unitBytes(found[4]!.charCodeAt(0)));
}

function sized(
  before: string,
  beforeUnit: string,
  after: string,
  afterUnit: string,
  capacityBytes: number,
): PrintedSizes {
  const [unit, other] = [unitBytes(beforeUnit.charCodeAt(0)), unitBytes(afterUnit.charCodeAt(0))];
  const step = (value: string, bytes: number): number => (value.includes('.') ? bytes / 10 : bytes);
  return {
    beforeBytes: Number(before) * unit,
    afterBytes: Number(after) * other,
    capacityBytes,
    resolutionBytes: Math.max(step(before, unit), step(after, other)),
  };
}

// "ParNew: 613404K->68068K(613440K), 0.1020465 secs", "Metaspace: 6741K->6741K(1056768K)".
function spaceOf(text: string): PrintedSpace | null {
  const name = /^\s*([A-Za-z]+(?: [A-Z][a-z]+)?)(?:[\s:(\d]|--)/.exec(text)?.[1];
  const sizes = name === undefined ? null : sizesOf(text);
  return sizes === null ? null : { name: name!, ...sizes };
}

// "Eden: 24.0M(24.0M)->0.0B(13.0M) Survivors: 0.0B->3072.0K Heap: 24.0M(256.0M)->21.9M(256.0M)".
function sizesOfG1(text: string): PrintedSpace[] {
  if (!text.includes('Heap: ') && !text.includes('Eden: ')) return [];
  return [...text.matchAll(OF_G1)].map(
    ([, name, before, beforeUnit, , , after, afterUnit, capacity, capacityUnit]) => ({
      name: name!,
      ...sized(
        before!,
        beforeUnit!,
        after!,
        afterUnit!,
        capacity === undefined ? NaN : Number(capacity) * unitBytes(capacityUnit!.charCodeAt(0)),
      ),
    }),
  );
}

function toMs(seconds: string): number {
  return Math.round(Number(seconds) * 1e7) / 1e4;
}
