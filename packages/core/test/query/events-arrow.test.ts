import { tableFromIPC, type Table } from 'apache-arrow';
import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { lastKnownAlive } from '../../src/analysis/last-known-alive.ts';
import { NONE } from '../../src/base/ids.ts';
import { InputReader } from '../../src/formats/input-reader.ts';
import { frameText, pathFrames, siteLabel } from '../../src/model/call-path.ts';
import { nearestOwnPaths } from '../../src/model/own-frame.ts';
import { Recording } from '../../src/model/recording.ts';
import { eventsArrow, pathsArrow } from '../../src/query/events-arrow/write-arrow.ts';
import { addCollection, addFlow, addObject, followObjects } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

async function read(recording: Recording): Promise<{ events: Table; paths: Table }> {
  const pieces: Uint8Array[] = [];
  for await (const piece of eventsArrow(recording)) pieces.push(piece);
  return { events: tableFromIPC(Buffer.concat(pieces)), paths: tableFromIPC(Buffer.concat(pathsArrow(recording))) };
}

function sample(name: string): Recording {
  const reader = new InputReader();
  reader.write(gunzipSync(readFileSync(new URL(`file://${process.cwd()}/examples/recordings/${name}.heron`))));
  const result = reader.end();
  if (!result.ok) throw new Error(result.message);
  return result.runs[result.runs.length - 1]!;
}

const column = (table: Table, name: string): unknown[] => [...table.getChild(name)!];

test.each(['weirkeeper-with-its-faults', 'tidewatch-with-its-leak-and-churn'])(
  'every event of %s comes out as it is in the recording',
  async (name) => {
    const recording = sample(name);
    const { events, paths } = await read(recording);
    const { objects, flows, collections, pauses, marks, origins } = recording.tables;
    expect(events.numRows).toBe(objects.length + flows.length + collections.length + pauses.length + marks.length);
    const kinds = column(events, 'kind');
    expect([...new Set(kinds)]).toEqual([
      'object',
      ...(flows.length > 0 ? ['flow'] : []),
      'collection',
      'pause',
      ...(marks.length > 0 ? ['mark'] : []),
    ]);
    const [bornMs, endMs, aliveMs, size, site, own, path, type] = [
      't_ms',
      'end_ms',
      'alive_ms',
      'size_bytes',
      'site',
      'own_frame',
      'path_id',
      'type',
    ].map((each) => column(events, each)) as unknown[][];
    const alive = lastKnownAlive(recording);
    const nearest = nearestOwnPaths(recording);
    const orNull = (value: number): number | null => (Number.isNaN(value) ? null : value);
    const wrong: number[] = [];
    for (let row = 0; row < objects.length; row++) {
      const origin = objects.col.originId[row]!;
      const pathId = origins.col.pathId[origin]!;
      const frames = pathId === NONE ? [] : pathFrames(recording, pathId);
      const expected = [
        objects.col.bornMs[row],
        orNull(objects.col.endMs[row]!),
        orNull(alive(row)),
        Number.isNaN(objects.col.probability[row]!) ? null : objects.col.sizeBytes[row],
        pathId === NONE ? null : siteLabel(frames[frames.length - 1]!),
        pathId === NONE ? null : siteLabel(frameText(recording, recording.tables.paths.col.frameId[nearest[pathId]!]!)),
        pathId === NONE ? null : pathId,
        origins.col.typeId[origin] === NONE ? null : recording.strings.text(origins.col.typeId[origin]!),
      ];
      if (
        JSON.stringify([
          bornMs![row],
          endMs![row],
          aliveMs![row],
          size![row],
          site![row],
          own![row],
          path![row],
          type![row],
        ]) !== JSON.stringify(expected)
      )
        wrong.push(row);
    }
    expect(wrong).toEqual([]);
    const at = kinds.indexOf('collection');
    expect(column(events, 'used_after_bytes').slice(at, at + collections.length)).toEqual(
      [...collections.col.usedAfterBytes.subarray(0, collections.length)].map(orNull),
    );
    expect(paths.numRows).toBe(recording.tables.paths.length);
    expect(events.schema.metadata.get('schema')).toBe('brisk-heron/events@1');
  },
);

test('a path is put together again from its rows', async () => {
  const recording = sample('weirkeeper-with-its-faults');
  const { paths } = await read(recording);
  const [parent, fn, line, depth] = ['parent_id', 'function', 'line', 'depth'].map((name) => column(paths, name)) as [
    number[],
    string[],
    number[],
    number[],
  ];
  for (let pathId = 0; pathId < paths.numRows; pathId += 37) {
    const names: string[] = [];
    for (let at: number | null = pathId; at !== null; at = parent[at]!) names.push(`${fn[at]}:${line[at] ?? 0}`);
    expect(names.reverse()).toEqual(
      pathFrames(recording, pathId).map((frame) => `${frame.functionName}:${frame.line}`),
    );
    expect(depth[pathId]).toBe(names.length - 1);
  }
});

test('sums over more rows than one batch are those of the estimates, with their errors', async () => {
  const random = seeded(41);
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  let [bytes, variance] = [0, 0];
  for (let n = 0; n < 70_000; n++) {
    const probability = random() < 0.2 ? 0.25 : 1;
    addObject(recording, { bornMs: n, bytes: 16 + (n % 100), site: `site${n % 9}`, type: `Ty·${n % 3}`, probability });
    bytes += (16 + (n % 100)) / probability;
    variance += (1 - probability) * ((16 + (n % 100)) / probability) ** 2;
  }
  addFlow(recording, { fromMs: 0, toMs: 9, bytes: 5000, site: 'a', seBytes: 7 });
  addCollection(recording, { startMs: 5, ms: 2, before: 100, after: 50 });
  let told = 0;
  for await (const piece of eventsArrow(recording, (rows) => {
    told = rows;
  }))
    expect(piece.length).toBeGreaterThan(0);
  expect(told).toBe(70_003);
  const { events } = await read(recording);
  expect(
    column(events, 'bytes')
      .slice(0, 70_000)
      .reduce((sum: number, each) => sum + (each as number), 0),
  ).toBeCloseTo(bytes, 3);
  expect(
    column(events, 'se_bytes')
      .slice(0, 70_000)
      .reduce((sum: number, each) => sum + (each as number) ** 2, 0) / variance,
  ).toBeCloseTo(1, 5);
  expect([
    events.get(69_999)!['type'],
    events.get(70_000)!['se_bytes'],
    events.get(70_002)!['collection'],
    events.get(70_002)!['pause_ms'],
  ]).toEqual(['Ty·0', 7, 0, 2]);
});

test('an empty recording is a table without rows', async () => {
  const recording = new Recording('recording');
  const { events, paths } = await read(recording);
  expect([events.numRows, paths.numRows, events.schema.fields.length]).toEqual([0, 0, 26]);
});
