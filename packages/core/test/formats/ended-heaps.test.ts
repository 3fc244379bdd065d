import { STREAM_SCHEMA, type StreamLine } from '../../src/formats/stream/layout.ts';
import { bytesOf, lastRun, readBytes } from './read-input.ts';

const hello = (h: string): StreamLine => ({
  k: 'hello',
  schema: STREAM_SCHEMA,
  h,
  epochMs: 1_800_000_000_000,
  program: 'tidewatch',
  runtime: 'Node.js v20',
  interval: 65_536,
});
const begun = (h: string): StreamLine[] => [
  hello(h),
  { k: 'frames', h, first: 0, fn: ['load'], file: ['file:///srv/a.js'], line: [1], col: [1] },
  { k: 'paths', h, first: 0, parent: [-1], frame: [0] },
  { k: 'phase', h, t: 0, kind: 'objects' },
];
const read = (...lines: StreamLine[]) =>
  lastRun(readBytes(bytesOf(`${lines.map((line) => JSON.stringify(line)).join('\n')}\n`)));
const born = (h: string, from: number, to: number, ids: number[]): StreamLine => ({
  k: 'born',
  h,
  from,
  to,
  id: ids,
  path: ids.map(() => 0),
  size: ids.map(() => 100_000),
  at: ids.map(() => to),
});

test('what lived in a heap goes with it where another goes on, and is kept where all end together', () => {
  const worker = [...begun('1.0'), ...begun('1.1'), born('1.1', 0, 1000, [1])];
  const later = read(
    ...worker,
    { k: 'bye', h: '1.1', t: 5000, reason: 'exit' },
    { k: 'size', h: '1.0', t: 6000, used: 1 },
    { k: 'size', h: '1.0', t: 9000, used: 1 },
    { k: 'mark', h: '1.0', t: 9100, label: 'on', by: 'program' },
  );
  expect([later.tables.objects.col.endMs[0], later.tables.objects.col.lost[0], later.heaps[1]!.endMs]).toEqual([
    5000, 1, 5000,
  ]);
  const together = read(
    ...worker,
    { k: 'bye', h: '1.1', t: 5000, reason: 'exit' },
    { k: 'size', h: '1.0', t: 5300, used: 1 },
    { k: 'bye', h: '1.0', t: 5400, reason: 'exit' },
  );
  expect([together.tables.objects.col.endMs[0], together.ended]).toEqual([NaN, true]);
});

test('a heap that reached its limit and lived on did not end of it; one that was told to have no more memory did', () => {
  const note = (code: string): StreamLine => ({ k: 'note', h: '1.0', t: 4000, code, message: '' });
  const bye = (t: number): StreamLine => ({ k: 'bye', h: '1.0', t, reason: 'exit' });
  expect(read(...begun('1.0'), note('heap-limit'), bye(60_000)).heaps[0]!.outOfMemoryMs).toBeNaN();
  expect(read(...begun('1.0'), note('heap-limit'), bye(4500)).heaps[0]!.outOfMemoryMs).toBe(4000);
  expect(read(...begun('1.0'), note('heap-limit')).heaps[0]!.outOfMemoryMs).toBe(4000);
  expect(read(...begun('1.0'), note('out-of-memory'), bye(60_000)).heaps[0]!.outOfMemoryMs).toBe(4000);
});

test('what cannot be true is an issue and no figure', () => {
  const recording = read(
    ...begun('1.0'),
    born('1.0', 0, 1000, [1, 2]),
    born('1.0', 2000, 1000, [3]),
    born('1.0', 1000, 2000, [1]),
    { k: 'died', h: '1.0', from: 3000, to: 2000, id: [2] },
    { k: 'size', h: '1.0', t: 1e15, used: 7 },
    { k: 'flow', h: '1.0', from: 9000, to: 8000, path: [0], bytes: [5] },
    { ...born('1.0', 10_000, 11_000, [8]), at: [90_000] } as StreamLine,
  );
  expect([
    recording.tables.objects.length,
    recording.tables.flows.length,
    recording.tables.sizes.length,
    recording.durationMs < 100_000,
  ]).toEqual([2, 0, 0, true]);
  expect(recording.issues.count).toBe(6);
  expect(recording.issues.first[0]!.message).toContain('"from" must not be after "to"');
  const dead = read(...begun('1.0'), born('1.0', 8000, 9000, [1]), {
    k: 'died',
    h: '1.0',
    from: 1000,
    to: 2000,
    id: [1],
  });
  expect([dead.tables.objects.col.endMs[0], dead.issues.count]).toEqual([NaN, 1]);
});

test('the limit of the container is the least that any process tells', () => {
  const limited = (h: string, container: number): StreamLine => ({ ...hello(h), container }) as StreamLine;
  expect(read(limited('1.0', 512e6), limited('2.0', 256e6)).containerLimitBytes).toBe(256e6);
  expect(read(hello('1.0')).containerLimitBytes).toBeNaN();
});
