import fc from 'fast-check';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import { writeRecordingHeader } from '../../src/formats/recording-file/container.ts';
import { STREAM_SCHEMA, type StreamLine } from '../../src/formats/stream/layout.ts';
import { checkStreamLine } from '../../src/formats/stream/schema.ts';
import { pathFrames, siteLabel } from '../../src/model/call-path.ts';
import { PhaseKind } from '../../src/model/tables.ts';
import { bytesOf, lastRun, readBytes } from './read-input.ts';

const h = '1.0';
const hello: StreamLine = {
  k: 'hello',
  schema: STREAM_SCHEMA,
  h,
  epochMs: 1_800_000_000_000,
  program: 'tidewatch',
  runtime: 'Node.js v20',
  interval: 65_536,
  limit: 268_435_456,
};
const LINES: readonly StreamLine[] = [
  hello,
  {
    k: 'frames',
    h,
    first: 0,
    fn: ['main', 'subscribe'],
    file: ['file:///srv/tidewatch.js', 'file:///srv/alerts.js'],
    line: [1, 14],
    col: [1, 3],
  },
  { k: 'paths', h, first: 0, parent: [-1, 0], frame: [0, 1] },
  { k: 'phase', h, t: 0, kind: 'births' },
  { k: 'flow', h, from: 0, to: 1000, path: [1], bytes: [500_000], se: [40_000] },
  { k: 'phase', h, t: 1000, kind: 'survivors' },
  { k: 'born', h, from: 1000, to: 3000, id: [4, 9], path: [1, 0], size: [65_600, 65_700] },
  {
    k: 'gc',
    h,
    t: 3000,
    ms: 4,
    scope: 'whole',
    label: 'Mark-Compact',
    before: 9_000_000,
    after: 5_000_000,
    own: true,
    spaces: [['old_space', 1, 2]],
  },
  { k: 'died', h, from: 3000, to: 5000, id: [9] },
  { k: 'mark', h, t: 5500, label: 'reconnect', by: 'program' },
  { k: 'size', h, t: 6000, used: 5_100_000, resident: 60_000_000 },
  { k: 'phase', h, t: 7000, kind: 'births' },
  { k: 'bye', h, t: 8000, reason: 'exit 0' },
];
const TEXT = `${LINES.map((line) => JSON.stringify(line)).join('\n')}\n`;

test('a stream becomes a recording', () => {
  const recording = lastRun(readBytes(bytesOf(TEXT)));
  const { objects, flows, phases, marks, polls, pauses } = recording.tables;
  expect([recording.program, recording.durationMs, recording.ended, recording.limitBytes()]).toEqual([
    'tidewatch',
    8000,
    true,
    268_435_456,
  ]);
  expect([objects.length, flows.length, marks.length, polls.length, pauses.length]).toEqual([2, 1, 1, 0, 1]);
  expect(pathFrames(recording, recording.tables.origins.col.pathId[objects.col.originId[0]!]!).map(siteLabel)).toEqual([
    'main tidewatch.js:1',
    'subscribe alerts.js:14',
  ]);
  expect([objects.col.bornMs[0], objects.col.bornEarlyMs[0], objects.col.bornLateMs[0]]).toEqual([1500, 500, 1500]);
  expect([objects.col.endMs[1], objects.col.diedSlackMs[1], objects.col.lost[1]]).toEqual([5000, 2000, 0]);
  expect(phases.col.kind[1]).toBe(PhaseKind.survivors);
  expect([phases.col.toMs[1], objects.col.endMs[0], objects.col.lost[0]]).toEqual([7000, 7000, 1]);
  expect(recording.issues.count).toBe(0);
});

test('any way of cutting the stream gives the same report', () => {
  const bytes = bytesOf(TEXT);
  const whole = analysisReport(lastRun(readBytes(bytes)));
  fc.assert(
    fc.property(fc.array(fc.nat(bytes.length), { maxLength: 6 }), (cuts) => {
      expect(analysisReport(lastRun(readBytes(bytes, cuts)))).toEqual(whole);
    }),
    { seed: 6, numRuns: 60 },
  );
});

test('the report keeps its contract', () => {
  const report = analysisReport(lastRun(readBytes(bytesOf(TEXT))));
  expect(Object.keys(report)).toEqual(
    expect.arrayContaining([
      'schema',
      'source',
      'durationMs',
      'pauses',
      'collections',
      'heap',
      'allocation',
      'promotion',
      'verdict',
      'sites',
    ]),
  );
  expect(report.schema).toBe('brisk-heron/analysis@1');
  expect(report.source).toMatchObject({
    format: 'recording',
    runtime: 'Node.js v20',
    bytes: bytesOf(TEXT).length,
    lines: 13,
    issues: { count: 0, byCode: {}, first: [] },
  });
  expect(report.verdict.kind).toBe('unclear');
  expect(report.collections).toMatchObject({ count: 0, ownForced: 1 });
  // It allocates twice as fast as in its births phase.
  expect(report.sites.map(({ site }) => site)).toEqual(expect.arrayContaining(['(not seen)', 'main tidewatch.js:1']));
  expect(report.sites.find(({ site }) => site === 'subscribe alerts.js:14')).toMatchObject({
    path: ['main tidewatch.js:1', 'subscribe alerts.js:14'],
    type: null,
    allocCount: null,
  });
  expect(JSON.parse(JSON.stringify(report))).toEqual(report);
});

test.each([
  ['{"k":"size","h":"1.0","t":1,"used":-4}', 'not-a-stream-line'],
  ['{"k":"size","h":"9.9","t":1,"used":4}', 'unknown-reference'],
  ['{"k":"born","h":"1.0","from":0,"to":1,"id":[1],"path":[77],"size":[8]}', 'unknown-reference'],
  ['{"k":"born","h":"1.0","from":0,"to":1,"id":[1,2],"path":[0],"size":[8]}', 'not-a-stream-line'],
  ['{"k":"died","h":"1.0","from":0,"to":1,"id":[1234]}', 'unknown-reference'],
  ['{"k":"paths","h":"1.0","first":9,"parent":[0],"frame":[0]}', 'unknown-reference'],
  ['not json', 'not-a-stream-line'],
  ['{"k":"hello","schema":"brisk-heron/stream@9"}', 'not-a-stream-line'],
  ['[1,2]', 'not-a-stream-line'],
])('a bad line costs that line: %s', (line, code) => {
  const recording = lastRun(
    readBytes(bytesOf(`${TEXT}${line}\n{"k":"mark","h":"1.0","t":9000,"label":"after","by":"page"}\n`)),
  );
  expect(recording.issues.byCode).toEqual({ [code]: 1 });
  expect(recording.issues.first[0]!.line).toBe(14);
  expect(recording.tables.marks.length).toBe(2);
});

const born = (column: string): string =>
  `{"k":"born","h":"1.0","from":0,"to":1,"id":[1,2],"path":[0,0],"size":[8,8]${column}}`;

test.each([
  [born('').replace('[1,2]', '[1,-2]'), 'at "id.1": expected ids, whole numbers from 0'],
  [born('').replace('[0,0]', '[0,0.5]'), 'at "path.1": expected ids'],
  [born('').replace('[8,8]', '[8,"8"]'), 'at "size.1": expected bytes, numbers from 0'],
  [born('').replace('[8,8]', '[1e999,8]'), 'at "size.0": expected bytes'],
  [born(',"at":[0,null]'), 'at "at.1": expected times'],
  [born(',"p":[0,1]'), 'at "p.0": expected probabilities above 0, up to 1'],
  [born(',"p":[1,1.5]'), 'at "p.1": expected probabilities'],
  [born(',"type":7'), 'at "type": expected an array of ids'],
  [born('').replace('[1,2]', '[1,9007199254740993]'), 'at "id.1": expected ids'],
  ['{"k":"paths","h":"1.0","first":9,"parent":[-2],"frame":[0]}', 'at "parent.0": expected ids, whole numbers from -1'],
])('a wrong number in a column is named with its place: %s', (line, why) => {
  const check = checkStreamLine(line);
  expect(check).toMatchObject({ ok: false, why: expect.stringContaining(why) as string });
});

test.each([
  born(''),
  born(',"at":[0,-5.5],"p":[1,1e-9],"type":[0,1]'),
  '{"k":"died","h":"1.0","from":0,"to":1,"id":[]}',
])('a right column passes: %s', (line) => {
  const { ok, line: read } = checkStreamLine(line) as { ok: boolean; line: object };
  const asLists = JSON.stringify(read, (_, value: unknown) => (value instanceof Float64Array ? [...value] : value));
  expect([ok, JSON.parse(asLists)]).toEqual([true, JSON.parse(line)]);
});

test('two heaps share one clock', () => {
  const second = { ...hello, h: '1.1', epochMs: hello.epochMs + 500, heapName: 'worker' };
  const recording = lastRun(
    readBytes(
      bytesOf(`${TEXT}${JSON.stringify(second)}\n{"k":"mark","h":"1.1","t":100,"label":"up","by":"program"}\n`),
    ),
  );
  expect(recording.heaps.map((heap) => heap.name)).toEqual(['1.0', 'worker']);
  expect(recording.tables.marks.col.tMs[1]).toBe(600);
  expect(recording.ended).toBe(false);
});

test('an exported recording reads like what it holds', () => {
  const inner = analysisReport(lastRun(readBytes(bytesOf(TEXT))));
  const header = writeRecordingHeader({
    name: 'tidewatch, run 3',
    createdEpochMs: 1,
    parts: [{ name: 'a.ndjson', bytes: TEXT.length }],
  });
  expect(analysisReport(lastRun(readBytes(bytesOf(header + TEXT), [10, 200])))).toEqual(inner);
});

test('an exported recording with a broken header is refused', () => {
  const result = readBytes(bytesOf(`{"schema":"brisk-heron/recording@1","name":7}\n${TEXT}`));
  expect(result).toMatchObject({ ok: false, code: 'bad-header' });
});
