import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { tableFromIPC } from 'apache-arrow';
import { inventoryCost } from '../../core/src/analysis/holding/inventory-cost.ts';
import type { InventoryChangesAnswer } from '../../core/src/measures/inventory-changes.ts';
import type { ReasonsAnswer } from '../../core/src/measures/reasons.ts';
import { V8_INVENTORY, whyNoRoom } from '../../recorder-node/src/inventory-room.ts';
import { compile, describeJvm, java, program } from '../../recorder-jvm/test/jvm.ts';
import { readRecording, ROOT, runHeron, scratch } from '../../../test/run-heron.ts';

interface Group {
  readonly key: string;
  readonly objects: number;
  readonly objectsSe?: number;
  readonly ownBytes: number;
  readonly ownSe?: number;
  readonly heldBytes: number;
  readonly sampled: number;
  readonly ways: readonly { readonly steps: readonly string[]; readonly shareRatio: number }[];
  readonly sentence: string;
}
interface Holding {
  readonly groups: readonly Group[];
  readonly inventories: readonly { readonly heap: string; readonly pauseMs: number; readonly sampled: number }[];
}

async function ask<T>(file: string, measure: string, ...more: string[]): Promise<T> {
  const { code, stdout, stderr } = await runHeron(['ask', file, '--measure', measure, '--json', ...more]);
  expect([code, stderr]).toEqual([0, '']);
  const answer = JSON.parse(stdout) as { readonly answer?: T };
  return answer.answer ?? (answer as T);
}

const WATCHING = join(ROOT, 'packages/cli/test/programs/watching.js');
/** What is left beside a recording that is over: the recording. */
const beside = (file: string): string[] => readdirSync(join(file, '..')).sort();

describeJvm('an inventory that the recorder of a JVM took', () => {
  const file = join(scratch(), 'watching.ndjson');

  beforeAll(async () => {
    const { code, stderr, stdout } = await runHeron([
      ...['record', '--out', file, '--interval', '65536', '--cost', '0', '--inventory-at', 'full', '--'],
      ...[java(), '-Xmx300m', '-cp', compile(program('Watching')), 'Watching'],
    ]);
    expect([code, stderr, stdout]).toEqual([0, '', 'kept 10000 20000\n']);
  }, 120_000);

  test('is in the recording, with nothing left beside it, and no value', () => {
    expect(beside(file)).toEqual(['watching.ndjson']);
    const { inventories, tables, heaps, strings } = readRecording(file);
    expect(inventories).toHaveLength(1);
    const [{ tMs, pauseMs, sampled, graph }] = inventories as [(typeof inventories)[number]];
    expect(pauseMs).toBeGreaterThan(0);
    expect(heaps).toHaveLength(1);
    // Taken right at the mark, and told by one of the recorder's own.
    const { marks, collections } = tables;
    const labels = Array.from({ length: marks.length }, (_, row) => [
      strings.text(marks.col.labelId[row]!),
      marks.col.tMs[row]!,
    ]);
    expect(labels.map(([label]) => label)).toEqual(['full', 'inventory']);
    expect(Math.abs((labels[1]![1] as number) - tMs)).toBeLessThan(5);
    expect(Array.from(collections.col.flags.subarray(0, collections.length)).some((flags) => (flags & 1) === 1)).toBe(
      true,
    );
    // Of some 48 MB that are kept, one object in 64 KiB and more.
    expect(sampled.object.length).toBeGreaterThan(300);
    expect(graph.types.some((type) => /brisk/i.test(type) && !/Marks/.test(type))).toBe(false);
  });

  test('tells by the line that allocated them what keeps objects, within the error', async () => {
    const { groups } = await ask<Holding>(file, 'holding', '--charge', 'site');
    const site = (words: string): Group => groups.find(({ key }) => key.startsWith(words))!;
    const body = site('Watching.body ');
    expect(body.sampled).toBeGreaterThan(200);
    expect(Math.abs(body.ownBytes - 20_000 * 2016)).toBeLessThan(3 * body.ownSe! + 1);
    expect(body.sentence).toMatch(
      /^About .* ± .* objects allocated at Watching\.body Watching\.java:\d+ \(.* judged by \d+ that were sampled\) stay because Watching\.watch \(java\.util\.HashMap\), root: class of the program, keeps them/,
    );
    expect(body.ways[0]!.steps.at(-1)).toBe('Watching$Handler.body');
    const others = site('Watching.Other.<init> ');
    expect(others.ownBytes / (10_000 * 816)).toBeGreaterThan(0.7);
    expect(others.sentence).toMatch(/root: (?:stack of thread “[^”]+”|class of the program)/);
    const byOwn = await ask<Holding>(file, 'holding', '--charge', 'ownFrame', '--find', 'site=watching.body');
    expect(byOwn.groups.map(({ key }) => key.replace(/:.*/, ''))).toEqual(['Watching.body Watching.java']);
  });

  test('tells each of its faults among the usual reasons', async () => {
    const { reasons } = await ask<ReasonsAnswer>(file, 'reasons');
    const words = new Map(reasons.map(({ code, sentence }) => [code, sentence]));
    expect(words.get('listeners')).toMatch(/^3,000 listeners of “tideListeners” hang on one Watching and hold/);
    expect(words.get('class-loaders')).toMatch(/^Class Plugin is there 4 times, by as many java\.net\.URLClassLoader/);
    expect(words.get('thread-locals')).toMatch(/holds? 5\.\d+ MiB\.$/);
    expect(words.get('empty-collections')).toMatch(/^4,\d+ java\.util\.ArrayList objects/);
    for (const { find, key } of reasons) {
      const { groups } = await ask<Holding>(file, 'holding', '--find', find, '--set', 'most=400');
      expect(groups.map((group) => group.key)).toContain(key);
    }
  });

  test('is written as tables that other tools open, with what the page tells', async () => {
    const folder = join(scratch(), 'tables');
    expect((await runHeron(['inventory', file, '--tables', folder])).code).toBe(0);
    const [objects, edges, roots, types] = ['objects', 'edges', 'roots', 'types'].map((name) =>
      tableFromIPC(readFileSync(join(folder, `${name}.arrow`))),
    );
    const { graph, sampled } = readRecording(file).inventories[0]!;
    expect([objects!.numRows, edges!.numRows, roots!.numRows, types!.numRows]).toEqual([
      graph.objects,
      graph.edgeTo.length,
      graph.roots.length,
      graph.types.length,
    ]);
    const type = objects!.getChild('type')!;
    const handlers = Array.from(type, String).flatMap((name, row) => (name === 'Watching$Handler' ? [row] : []));
    expect(handlers).toHaveLength(20_000);
    expect(objects!.getChild('held_bytes')!.get(handlers[7]!)).toBe(16 + 2016);
    const sites = Array.from(objects!.getChild('site')!, String).filter((site) => site.startsWith('Watching.body'));
    expect(sites.length).toBeLessThanOrEqual(sampled.object.length);
    expect(sites.length).toBeGreaterThan(200);
    const [from, to, name] = ['from', 'to', 'name'].map((column) => edges!.getChild(column)!);
    const edge = Array.from(from!).indexOf(handlers[7]!);
    expect([name!.get(edge), type.get(to!.get(edge) as number)]).toEqual(['body', 'byte[]']);
    const asked = await runHeron(['inventory', file, '--since', '1']);
    expect([asked.code, asked.stderr]).toEqual([2, expect.stringContaining('one inventory')]);
  });
});

describeJvm('a JVM', () => {
  // ZGC stops the recorder's own thread first; the others wait for it all the same.
  test.each(['G1', 'Z'])('whose heap can give no more is told as it was then, under %s', async (collector) => {
    const file = join(scratch(), 'full.ndjson');
    const { stdout } = await runHeron([
      ...['record', '--out', file, '--inventory-at', 'out-of-memory', '--'],
      ...[java(), `-XX:+Use${collector}GC`, '-Xmx120m', '-cp', compile(program('Watching')), 'Watching', 'fill'],
    ]);
    const kibibytes = Number(/out of memory after (\d+)/.exec(stdout)![1]);
    const { groups } = await ask<Holding>(file, 'holding', '--find', 'own>=100000', '--set', 'most=50');
    const arrays = groups.find(({ key }) => key === 'byte[]')!;
    // What filled it, the state of four plugins and what a thread keeps.
    expect(arrays.ownBytes / 1024).toBeGreaterThan(0.9 * kibibytes);
    expect(beside(file)).toEqual(['full.ndjson']);
  });

  test('of which a bit of a disk is left takes none, and says so', async () => {
    // The file cannot be made where the recording lies.
    const folder = scratch();
    const file = join(folder, 'refused.ndjson');
    writeFileSync(join(folder, 'x'), '');
    const { code } = await runHeron([
      ...['record', '--out', file, '--inventory-at', '1%', '--'],
      ...[java(), '-Xmx300m', '-cp', compile(program('Watching')), 'Watching'],
    ]);
    expect(code).toBe(0);
    // So little of the limit is reached by the first collection: once, however often after that.
    expect(readRecording(file).inventories).toHaveLength(1);
  });
});

test('of a Node program they are told by function, its worker left alone, and two of them compared', async () => {
  const file = join(scratch(), 'watching.ndjson');
  const recorded = await runHeron(['record', '--out', file, '--inventory-at', 'full', '--', 'node', WATCHING]);
  expect([recorded.code, recorded.stderr]).toEqual([0, '']);
  expect(beside(file)).toEqual(['watching.ndjson']);
  const holding = await ask<Holding>(file, 'holding', '--set', 'most=400');
  expect(holding.inventories).toHaveLength(2);
  expect(new Set(holding.inventories.map(({ heap }) => heap)).size).toBe(1);
  const listener = holding.groups.find(({ key }) => key === 'function onTide (watching.js)')!;
  expect(listener.objects).toBe(1200);
  expect(listener.sentence).toContain('because Alerts.bus (EventEmitter');
  const watchers = holding.groups.find(({ key }) => key === 'function (watching.js)')!;
  expect(watchers.objects).toBeGreaterThanOrEqual(12_000);
  expect(holding.groups.some(({ key }) => key === 'Pilot')).toBe(false);
  const { reasons } = await ask<ReasonsAnswer>(file, 'reasons');
  const words = new Map(reasons.map(({ code, sentence }) => [code, sentence]));
  expect(words.get('listeners')).toMatch(/^1,200 listeners of “tide” hang on one EventEmitter and hold/);
  expect(words.get('timers')).toMatch(/^24\d timers that have not run hold/);
  expect(words.get('scopes')).toMatch(/scopes that functions keep hold/);
  const since = await runHeron(['inventory', file, '--since', '1', '--json', '--most', '60']);
  const { rows, growing, notes } = JSON.parse(since.stdout) as InventoryChangesAnswer;
  expect(rows.find(({ key }) => key === 'function onTide (watching.js)')).toMatchObject({
    ...{ a: { objects: 800 }, b: { objects: 1200 }, holder: 'Alerts.bus' },
  });
  expect(growing.join('\n')).toContain('Alerts.bus grew from 800 to 1,200 function onTide (watching.js)');
  // Their numbers were not kept, which would have slowed the program: nothing is said of single objects.
  expect(notes.join(' ')).toContain('cannot be followed one by one');
  // Where no birth is joined, there is no answer by site, and that is said.
  const none = await runHeron(['ask', file, '--measure', 'holding', '--charge', 'site', '--json']);
  expect(JSON.parse(none.stdout)).toMatchObject({ groups: [], missing: expect.stringContaining('Node does not') });
}, 120_000);

test('without the addon one is taken all the same', async () => {
  const file = join(scratch(), 'plain.ndjson');
  await runHeron(['record', '--no-addon', '--out', file, '--inventory-at', 'full', '--', 'node', WATCHING, '100']);
  const { inventories } = readRecording(file);
  expect(inventories).toHaveLength(2);
  expect(inventories[0]!.graph.types).toContain('function onTide (watching.js)');
}, 120_000);

test('where there is no room none is taken, and what is missing is told', () => {
  const folder = scratch();
  expect(whyNoRoom(1, 1, folder)).toBe('');
  expect(whyNoRoom(1, 2 ** 60, folder)).toMatch(/^expected .* MiB free on the disk of .*, found .* MiB$/);
  expect(whyNoRoom(2 ** 60, 1, folder)).toMatch(/^expected .* of free memory, found .*: the program might be ended/);
  // The page tells before what the recorder goes by.
  const { memoryBytes, fileBytes } = inventoryCost('v8', 1000);
  expect([memoryBytes, fileBytes]).toEqual([1000 * V8_INVENTORY.memoryRatio, 1000 * V8_INVENTORY.fileRatio]);
});
