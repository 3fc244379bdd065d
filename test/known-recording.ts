import { STREAM_SCHEMA, type StreamLine } from '../packages/core/src/formats/stream/layout.ts';

/** One allocation of a recording of which everything is known. */
export interface KnownObject {
  readonly heap: string;
  readonly thread: string;
  readonly type: string;
  /** Names of its frames from the entry to the allocation. */
  readonly path: readonly string[];
  readonly bytes: number;
  readonly bornMs: number;
  /** Infinity for one that is kept. */
  readonly diedMs: number;
}

interface KnownFrame {
  readonly file: string;
  readonly line: number;
  readonly isOwn: boolean;
}

const FRAMES: Readonly<Record<string, KnownFrame>> = {
  serve: { file: 'file:///srv/saltmarsh/serve.js', line: 3, isOwn: true },
  predict: { file: 'file:///srv/saltmarsh/tide.js', line: 12, isOwn: true },
  parse: { file: 'file:///srv/saltmarsh/wire.js', line: 7, isOwn: true },
  split: { file: 'file:///srv/saltmarsh/node_modules/kit/text.js', line: 40, isOwn: false },
  push: { file: 'file:///srv/saltmarsh/node_modules/kit/list.js', line: 5, isOwn: false },
};
const PATHS: readonly (readonly string[])[] = [
  ['serve'],
  ['serve', 'parse'],
  ['serve', 'parse', 'split'],
  ['serve', 'predict'],
  ['serve', 'predict', 'push'],
  ['serve', 'predict', 'serve', 'parse', 'split'],
];
const TYPES = ['Reading', 'Float64Array', 'string'];
const THREADS = ['main', 'tide worker'];
const HEAPS = ['main 1', 'worker 1.2'];
export const KNOWN_MS = 90_000;
/** Instants of the mark `tide`, between which rounds lie. */
export const ROUNDS_MS = [10_000, 20_000, 30_000, 40_000, 50_000, 60_000, 70_000];
const COLLECTION_MS = 500;

/**
 * Objects of two heaps, every one seen: what lives to the end was born long before it, so that nothing is too young to
 * tell.
 */
export const KNOWN: readonly KnownObject[] = HEAPS.flatMap((heap, heapAt) =>
  Array.from({ length: 900 }, (_, n) => {
    const bornMs = 1000 + n * 70 + heapAt * 13;
    return {
      heap,
      thread: THREADS[n % 2]!,
      type: TYPES[n % 3]!,
      path: PATHS[(n * 7) % PATHS.length]!,
      bytes: n % 90 === 0 ? 40_000 : 16 + 8 * ((n * 5) % 23),
      bornMs,
      diedMs: n % 4 === 0 && bornMs < 50_000 ? Infinity : bornMs + 100 + ((n * 37) % 4000),
    };
  }),
);

export const keyOf = {
  site: ({ path }: KnownObject): string => place(path[path.length - 1]!),
  ownFrame: ({ path }: KnownObject): string => place(path.findLast((name) => FRAMES[name]!.isOwn)!),
  function: ({ path }: KnownObject): string => `${path[path.length - 1]!} ${fileOf(path[path.length - 1]!)}`,
  file: ({ path }: KnownObject): string => FRAMES[path[path.length - 1]!]!.file,
  package: ({ path }: KnownObject): string => (FRAMES[path[path.length - 1]!]!.isOwn ? '/srv/saltmarsh' : 'kit'),
  type: ({ type }: KnownObject): string => type,
  thread: ({ thread }: KnownObject): string => thread,
  heap: ({ heap }: KnownObject): string => heap,
} as const;

function place(name: string): string {
  return `${name} ${fileOf(name)}:${FRAMES[name]!.line}`;
}

// A dependency's file carries its package.
function fileOf(name: string): string {
  const { file, isOwn } = FRAMES[name]!;
  return `${isOwn ? '' : 'kit/'}${file.split('/').pop()}`;
}

/** The recording as the lines of a stream. */
export function knownStream(): string {
  const lines: { readonly t: number; readonly line: StreamLine }[] = [];
  HEAPS.forEach((name, heapAt) => {
    const h = `1.${heapAt}`;
    const names = Object.keys(FRAMES);
    const paths = pathTable(names);
    const add = (t: number, line: StreamLine): void => {
      lines.push({ t, line });
    };
    add(0, {
      k: 'hello',
      schema: STREAM_SCHEMA,
      h,
      epochMs: 1_800_000_000_000,
      program: 'tidewatch',
      runtime: 'a runtime of its own 1.0',
      collector: 'V8',
      heapName: name,
      limit: 256 * 2 ** 20,
    });
    add(0, { k: 'phase', h, t: 0, kind: 'objects' });
    add(0, {
      k: 'frames',
      h,
      first: 0,
      fn: names,
      file: names.map((each) => FRAMES[each]!.file),
      line: names.map((each) => FRAMES[each]!.line),
      col: names.map(() => 1),
    });
    add(0, { k: 'paths', h, first: 0, parent: paths.parent, frame: paths.frame });
    add(0, { k: 'types', h, first: 0, name: TYPES });
    add(0, { k: 'threads', h, first: 0, name: THREADS });
    const objects = KNOWN.filter((each) => each.heap === name);
    objects.forEach((each, id) => {
      const { bornMs, diedMs, bytes } = each;
      add(bornMs, {
        k: 'born',
        h,
        from: bornMs,
        to: bornMs,
        id: [id],
        path: [paths.idOf(each.path)],
        size: [bytes],
        at: [bornMs],
        p: [1],
        type: [TYPES.indexOf(each.type)],
        thread: [THREADS.indexOf(each.thread)],
      });
      if (diedMs < Infinity) add(diedMs, { k: 'died', h, from: diedMs, to: diedMs, id: [id] });
    });
    for (let t = COLLECTION_MS; t < KNOWN_MS; t += COLLECTION_MS) {
      const used =
        1e6 +
        objects.filter(({ bornMs, diedMs }) => bornMs <= t && diedMs > t).reduce((sum, { bytes }) => sum + bytes, 0);
      add(t, {
        k: 'gc',
        h,
        t,
        ms: 2,
        scope: t % 5000 === 0 ? 'whole' : 'young',
        label: t % 5000 === 0 ? 'Mark-Compact' : 'Scavenge',
        before: used + 500_000,
        after: used,
      });
    }
    if (heapAt === 0) for (const t of ROUNDS_MS) add(t, { k: 'mark', h, t, label: 'tide', by: 'program' });
    add(KNOWN_MS, { k: 'bye', h, t: KNOWN_MS, reason: 'exit' });
  });
  return `${lines
    .sort((a, b) => a.t - b.t)
    .map(({ line }) => JSON.stringify(line))
    .join('\n')}\n`;
}

// Every beginning of a path is a path; parents come first.
function pathTable(names: readonly string[]): {
  parent: number[];
  frame: number[];
  idOf: (path: readonly string[]) => number;
} {
  const ids = new Map<string, number>();
  const [parent, frame]: [number[], number[]] = [[], []];
  for (const path of PATHS) {
    path.forEach((name, at) => {
      const key = path.slice(0, at + 1).join('>');
      if (ids.has(key)) return;
      ids.set(key, parent.length);
      parent.push(at === 0 ? -1 : ids.get(path.slice(0, at).join('>'))!);
      frame.push(names.indexOf(name));
    });
  }
  return { parent, frame, idOf: (path) => ids.get(path.join('>'))! };
}
