import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { InputReader, type Recording } from '@brisk-heron/core';
import { floorLayout, trendLabel } from '../../src/charts/floor-chart.ts';
import { collectionDetailOf } from '../../src/workers/answers/collection-detail.ts';
import { collectionsOf, type CollectionsAsk } from '../../src/workers/answers/collections.ts';
import { growthOf } from '../../src/workers/answers/growth.ts';
import { overviewOf, overviewSentence } from '../../src/workers/answers/overview.ts';
import { ribbonOf } from '../../src/workers/answers/ribbon.ts';
import { foldPath, siteDetailOf } from '../../src/workers/answers/site-detail.ts';
import { rememberedSiteTables } from '../../src/workers/answers/site-tables.ts';
import { sitesOf } from '../../src/workers/answers/sites.ts';
import { summaryOf } from '../../src/workers/summary.ts';

const EXAMPLES = join(__dirname, '../../../../examples');

function read(bytes: Uint8Array): Recording {
  const reader = new InputReader();
  reader.write(bytes);
  const result = reader.end();
  if (!result.ok) throw new Error(result.message);
  return result.runs[result.runs.length - 1]!;
}

const leak = read(gunzipSync(readFileSync(join(EXAMPLES, 'recordings/tidewatch-with-its-leak-and-churn.heron'))));
const fixed = read(gunzipSync(readFileSync(join(EXAMPLES, 'recordings/tidewatch-fixed.heron'))));
const log = read(readFileSync(join(EXAMPLES, 'logs/weirkeeper-g1.log')));
const weirs = read(gunzipSync(readFileSync(join(EXAMPLES, 'recordings/weirkeeper-with-its-faults.heron'))));
const fixedWeirs = read(gunzipSync(readFileSync(join(EXAMPLES, 'recordings/weirkeeper-fixed.heron'))));

test('the leak is growing, from one site of its own code', () => {
  const growth = growthOf(leak, null, 'ownFrame');
  expect(growth.verdict.kind).toBe('growing');
  expect(growth.sites[0]).toMatchObject({ functionName: 'subscribe', place: 'alerts.js:14', isOwn: true });
  expect(growth.sites[0]!.growthShareRatio).toBeGreaterThan(0.9);
  expect(growth.explainedRatio!).toBeGreaterThan(0.6);
  expect(growth.explainedRatio!).toBeLessThan(1.4);
  expect(overviewSentence(overviewOf(leak, null))).toMatch(/^Growing .* from 1 site; .* limit in about/);
  expect(trendLabel(growth)).toMatch(/whole collections, p < 0\.001$/);
});

test('fixed, nothing grows', () => {
  const overview = overviewOf(fixed, null);
  expect(['steady', 'settled']).toContain(overview.verdict);
  expect(overview.clauses.some((clause) => clause.urgent)).toBe(false);
});

test('the sums of the sites agree with the totals, and nearly with what the collections measured', () => {
  const sites = sitesOf(leak, null, 'site');
  expect(sites.sites.reduce((sum, site) => sum + site.allocBytes, 0)).toBeCloseTo(sites.allocBytes, 0);
  expect(sitesOf(leak, null, 'ownFrame').allocBytes / sites.allocBytes).toBeCloseTo(1, 9);
  expect(sites.allocBytes / sites.measured!.totalBytes).toBeGreaterThan(0.8);
  expect(sites.allocBytes / sites.measured!.totalBytes).toBeLessThan(1.2);
});

test('a site has its path with the runtime folded, and its source', () => {
  const site = growthOf(leak, null, 'ownFrame').sites[0]!;
  const detail = siteDetailOf(leak, { span: null, charge: 'ownFrame', frameId: site.frameId })!;
  expect(detail.path[0]).toMatchObject({ kind: 'folded' });
  expect(detail.path[detail.path.length - 1]).toMatchObject({ kind: 'frame', isSite: true });
  expect(detail.source!.lines[14 - detail.source!.firstLine]).toContain('subscribe(gauge)');
  expect(siteDetailOf(leak, { span: null, charge: 'ownFrame', frameId: 999_999 })).toBeNull();
});

test('runs of foreign frames fold into one step each', () => {
  const frame = (functionName: string, file: string) => ({ functionName, file, line: 1, column: 1 });
  const site = frame('keep', '/srv/a.js');
  expect(foldPath([frame('a', 'node:timers'), frame('b', 'node:timers'), frame('c', '/srv/node_modules/@tide/kit/x.js'), site], site)).toEqual([
    { kind: 'folded', count: 3, through: 'node:timers' }, { kind: 'frame', frame: site, isOwn: true, isSite: true },
  ]);
});

test('the ribbon has a layer for what lives, a stroke for each kind of pause in a bin, and every mark', () => {
  const ribbon = ribbonOf(leak, { window: { fromMs: 0, toMs: leak.durationMs }, bins: 300, kind: null });
  expect(ribbon.hasStrata).toBe(true);
  const at = (bin: number): number => Array.from({ length: ribbon.bands }, (_, band) => ribbon.strata[band * 300 + bin]!).reduce((sum, bytes) => sum + bytes, 0);
  expect(at(290)).toBeGreaterThan(3 * at(75));
  expect(ribbon.pauseMs.length).toBeLessThanOrEqual(leak.tables.pauses.length);
  expect(ribbon.marks.every((mark) => mark.label === 'reconnect')).toBe(true);
  expect(ribbon.peakBytes).toBeGreaterThan(at(290));
});

test('the buckets, the kinds and the figures count the same pauses', () => {
  const answer = collectionsOf(log, ASK);
  expect(answer.buckets.counts.reduce((sum, count) => sum + count, 0)).toBe(answer.figures.count);
  expect(answer.buckets.totalsMs.reduce((sum, ms) => sum + ms, 0)).toBeCloseTo(answer.figures.totalMs, 6);
  for (const kinds of [answer.kinds, answer.causes]) expect(kinds.reduce((sum, kind) => sum + kind.totalMs, 0)).toBeCloseTo(answer.figures.totalMs, 6);
  const binSec = log.durationMs / 60 / 1000;
  expect(answer.series.allocBytesPerSec.reduce((sum, rate) => sum + rate * binSec, 0) / answer.allocation!.totalBytes).toBeCloseTo(1, 2);
  expect(collectionDetailOf(log, answer.pauseRow[0]!).spaces.map((space) => space.name)).toContain('Eden');
});

const ASK: CollectionsAsk = { span: null, slices: 60, goalMs: 200, edgesMs: null, kind: null };

test('a pause goal counts those that break it; edges of one\'s own make the buckets', () => {
  const { figures, overGoal, buckets } = collectionsOf(log, { ...ASK, goalMs: collectionsOf(log, ASK).figures.p50Ms, edgesMs: [5, 1] });
  expect(overGoal.count).toBeGreaterThan(0);
  expect(overGoal.count).toBeLessThanOrEqual(figures.count / 2);
  expect(buckets.edgesMs.slice(0, 3)).toEqual([0, 1, 5]);
});

test('pauses of a picked kind are marked in the view and on the ribbon', () => {
  const kind = collectionsOf(log, ASK).kinds.find((each) => each.name.startsWith('Pause Remark'))!;
  const answer = collectionsOf(log, { ...ASK, kind: { by: 'label', name: kind.name } });
  expect(answer.pauseChosen.reduce((sum, each) => sum + each, 0)).toBe(kind.count);
  const ribbon = ribbonOf(log, { window: { fromMs: 0, toMs: log.durationMs }, bins: 4000, kind: { by: 'label', name: kind.name } });
  expect(ribbon.pauseChosen.reduce((sum, each) => sum + each, 0)).toBe(kind.count);
  expect(ribbonOf(log, { window: { fromMs: 0, toMs: log.durationMs }, bins: 300, kind: null }).pauseChosen.includes(1)).toBe(false);
});

test('the gap before each pause is that to the one before, of its heap', () => {
  const { pauseMs, pauseGapMs } = collectionsOf(log, ASK);
  expect(pauseGapMs[0]).toBeNaN();
  for (let place = 1; place < pauseMs.length; place++) expect(pauseGapMs[place]).toBeCloseTo(pauseMs[place]! - pauseMs[place - 1]!, 6);
});

test('sizes of the heap and of every space, before and after', () => {
  const { sizes } = collectionsOf(log, ASK);
  expect(sizes.map(({ name }) => name)).toEqual(expect.arrayContaining(['heap', 'Eden', 'Old', 'Metaspace']));
  for (const { tMs, beforeBytes, afterBytes } of sizes) {
    expect([beforeBytes.length, afterBytes.length]).toEqual([tMs.length, tMs.length]);
    expect(Array.from(tMs)).toEqual(Array.from(tMs).sort((a, b) => a - b));
  }
  const eden = sizes.find(({ name }) => name === 'Eden')!;
  expect(eden.beforeBytes.reduce((sum, bytes) => sum + bytes, 0)).toBeGreaterThan(eden.afterBytes.reduce((sum, bytes) => sum + bytes, 0));
});

test('a log is judged by its floor, has no sites and says so', () => {
  expect(growthOf(log, null, 'site')).toMatchObject({ observed: false, sites: [], verdict: { kind: 'growing' } });
  expect(sitesOf(log, null, 'site').observed).toBe(false);
});

test('the floor chart holds every point and the line', () => {
  const growth = growthOf(leak, null, 'site');
  const layout = floorLayout(growth);
  expect(Math.max(...growth.verdict.floor.bytes)).toBeLessThan(layout.mostBytes);
  expect(layout.line![1][1] - layout.line![0][1]).toBeCloseTo((growth.verdict.slopeBytesPerSec * (layout.line![1][0] - layout.line![0][0])) / 1000, 3);
  expect(layout.band).toHaveLength(6);
});

test('the list keeps a strip and the sentence', () => {
  const summary = summaryOf(leak);
  expect(summary.strip).toHaveLength(80);
  expect(Math.max(...summary.strip)).toBeGreaterThan(5e6);
  expect(summary).toMatchObject({ program: 'tidewatch', verdictKind: 'growing' });
});

test('a site table is computed once while nothing has grown, and answers do not take it apart', () => {
  const tables = rememberedSiteTables();
  const span = { fromMs: 0, toMs: leak.durationMs };
  const first = tables(leak, span, 'ownFrame');
  const detail = siteDetailOf(leak, { span, charge: 'ownFrame', frameId: first.sites[0]!.frameId }, tables)!;
  expect(detail.momentsMs).toEqual(first.momentsMs);
  expect(detail.momentsMs).not.toBe(first.momentsMs);
  expect(tables(leak, { ...span }, 'ownFrame')).toBe(first);
  expect(tables(leak, span, 'site')).not.toBe(first);
  for (let n = 1; n < 6; n++) tables(leak, { fromMs: n, toMs: 50_000 }, 'site');
  expect(tables(leak, span, 'ownFrame')).not.toBe(first);
  expect(growthOf(leak, null, 'ownFrame', tables)).toEqual(growthOf(leak, null, 'ownFrame'));
});

test('the weirs grow from the schedules that are cached under a key without equality, and are steady when fixed', () => {
  const growth = growthOf(weirs, null, 'ownFrame');
  expect(growth.verdict.kind).toBe('growing');
  expect(growth.sites[0]).toMatchObject({ functionName: 'Weirkeeper.Schedule.<init>', type: 'double[]', isOwn: true });
  expect(growth.sites[0]!.shortPlace).toMatch(/^:\d+$/);
  expect(growth.explainedRatio).toBeGreaterThan(0.8);
  expect(growth.explainedRatio).toBeLessThan(1.3);
  expect(growthOf(fixedWeirs, null, 'ownFrame').verdict.kind).toBe('steady');
});

test('a JVM recording says how births are watched, and what its lines and types mean', () => {
  expect(overviewOf(weirs, null)).toMatchObject({ births: 'on', collector: 'G1' });
  expect(overviewOf(leak, null).births).toBe('phases');
  expect(overviewOf(log, null).births).toBeNull();
  const sites = sitesOf(weirs, null, 'ownFrame');
  const report = sites.sites[0]!;
  expect(report.functionName).toBe('Weirkeeper.report');
  expect(sites.allocBytes / sites.measured!.totalBytes).toBeGreaterThan(0.95);
  expect(sites.allocBytes / sites.measured!.totalBytes).toBeLessThan(1.05);
  const detail = siteDetailOf(weirs, { span: null, charge: 'ownFrame', frameId: report.frameId })!;
  expect(detail.lineMeans).toBe('allocation');
  expect(detail.path.map((step) => (step.kind === 'folded' ? `through ${step.through}` : step.frame.functionName))).toEqual(
    expect.arrayContaining(['Weirkeeper.main', 'Weirkeeper.listen (lambda)', 'Weirkeeper.report', 'through java.text']));
});

test('the leak leaves the same each round, from one site; fixed, no round leaves anything of it', () => {
  const { rounds } = growthOf(leak, null, 'ownFrame');
  expect(rounds).toMatchObject({ label: 'reconnect' });
  const row = rounds!.rows[0]!;
  expect(row).toMatchObject({ functionName: 'subscribe' });
  const seconds = (rounds!.marksMs.at(-1)! - rounds!.marksMs[0]!) / 1000;
  expect((row.lastBytes - row.firstBytes) / seconds / growthOf(leak, null, 'ownFrame').sites[0]!.growthBytesPerSec).toBeCloseTo(1, 0);
  expect(rounds!.rows.filter((each) => each.isConstant && each.functionName !== 'subscribe')).toEqual([]);
  const calm = growthOf(fixed, null, 'ownFrame').rounds;
  expect(calm!.rows.filter((row) => row.functionName === 'subscribe' && row.isConstant)).toEqual([]);
  expect(growthOf(log, null, 'site').rounds).toBeNull();
});
