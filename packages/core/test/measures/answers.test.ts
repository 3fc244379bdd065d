import { collectionDetailOf } from '../../src/measures/collection.ts';
import { type CollectionsAsk, collectionsOf } from '../../src/measures/collections.ts';
import { growthOf } from '../../src/measures/growth.ts';
import { foldPath, keyDetailOf } from '../../src/measures/key.ts';
import { momentOf } from '../../src/measures/moment.ts';
import { overviewOf, overviewSentence } from '../../src/measures/overview.ts';
import { contentChange } from '../../src/analysis/heap-content.ts';
import { ribbonOf } from '../../src/measures/ribbon.ts';
import { piece } from '../../src/study/piece.ts';
import { type Look, Subject, WHOLE } from '../../src/study/subject.ts';
import { allocationOf, by, fixed, fixedWeirs, leak, LEAK, log, sample, weirs } from './samples.ts';

test('the leak is growing, from one site of its own code', () => {
  const growth = growthOf(new Subject(leak), by('ownFrame'));
  expect(growth.verdict.kind).toBe('growing');
  expect(growth.rows[0]).toMatchObject({ name: 'subscribe', place: 'alerts.js:14', isOwn: true });
  expect(growth.rows[0]!.growthShareRatio).toBeGreaterThan(0.9);
  expect(growth.explainedRatio!).toBeGreaterThan(0.6);
  expect(growth.explainedRatio!).toBeLessThan(1.4);
  expect(overviewSentence(overviewOf(new Subject(leak)))).toMatch(/^Growing .* from 1 site; .* limit in about/);
});

test('fixed, nothing grows', () => {
  const overview = overviewOf(new Subject(fixed));
  expect(['steady', 'settled']).toContain(overview.verdict);
  expect(overview.clauses.some((clause) => clause.urgent)).toBe(false);
});

test('the sums of the sites agree with the totals, and nearly with what the collections measured', () => {
  const sites = allocationOf(new Subject(leak), by('site'));
  expect(sites.rows.reduce((sum, site) => sum + site.allocBytes, 0)).toBeCloseTo(sites.allocBytes, 0);
  expect(allocationOf(new Subject(leak), by('ownFrame')).allocBytes / sites.allocBytes).toBeCloseTo(1, 9);
  expect(sites.allocBytes / sites.measured!.totalBytes).toBeGreaterThan(0.8);
  expect(sites.allocBytes / sites.measured!.totalBytes).toBeLessThan(1.2);
});

test('a site has its path with the runtime folded, and its source', () => {
  const site = growthOf(new Subject(leak), by('ownFrame')).rows[0]!;
  const detail = keyDetailOf(new Subject(leak), WHOLE, 'ownFrame', site.key)!;
  expect(detail.path[0]).toMatchObject({ kind: 'folded' });
  expect(detail.path[detail.path.length - 1]).toMatchObject({ kind: 'frame', isSite: true });
  expect(detail.source!.lines[14 - detail.source!.firstLine]).toContain('subscribe(gauge)');
  expect(keyDetailOf(new Subject(leak), WHOLE, 'ownFrame', 'nobody (nowhere.js:1:1)')).toBeNull();
});

test('runs of foreign frames fold into one step each', () => {
  const frame = (functionName: string, file: string) => ({ functionName, file, line: 1, column: 1 });
  const site = frame('keep', '/srv/a.js');
  expect(
    foldPath(
      [frame('a', 'node:timers'), frame('b', 'node:timers'), frame('c', '/srv/node_modules/@tide/kit/x.js'), site],
      site,
    ),
  ).toEqual([
    { kind: 'folded', count: 3, through: 'node:timers' },
    { kind: 'frame', frame: site, isOwn: true, isSite: true },
  ]);
});

test('the ribbon has a layer for what lives, a stroke for each kind of pause in a bin, and every mark', () => {
  const ribbon = ribbonOf(leak, { window: { fromMs: 0, toMs: leak.durationMs }, bins: 300, kind: null });
  expect(ribbon.hasStrata).toBe(true);
  const at = (bin: number): number =>
    Array.from({ length: ribbon.bands }, (_, band) => ribbon.strata[band * 300 + bin]!).reduce(
      (sum, bytes) => sum + bytes,
      0,
    );
  // What lives for a moment is in it as well, so the levels go up and down with the collections.
  const least = (from: number): number => Math.min(...Array.from({ length: 20 }, (_, bin) => at(from + bin)));
  expect(least(275)).toBeGreaterThan(1.4 * least(60));
  expect(ribbon.pauseMs.length).toBeLessThanOrEqual(leak.tables.pauses.length);
  expect(ribbon.marks.every((mark) => mark.label === 'reconnect')).toBe(true);
  expect(ribbon.peakBytes).toBeGreaterThan(at(290));
});

test('a ribbon that goes on after the end of its recording tells nothing there', () => {
  const window = { fromMs: -leak.durationMs, toMs: 2 * leak.durationMs };
  const ribbon = ribbonOf(leak, { window, bins: 300, kind: null });
  for (const known of [ribbon.usedHigh, ribbon.usedAfter]) {
    expect(known[150]).toBeGreaterThan(0);
    expect(Array.from(known.slice(201)).filter((bytes) => !Number.isNaN(bytes))).toEqual([]);
  }
  for (let band = 0; band < ribbon.bands; band++)
    expect(Math.max(...ribbon.strata.slice(band * 300 + 201, (band + 1) * 300))).toBe(0);
});

test('the buckets, the kinds and the figures count the same pauses', () => {
  const answer = collectionsOf(log, ASK);
  expect(answer.buckets.counts.reduce((sum, count) => sum + count, 0)).toBe(answer.figures.count);
  expect(answer.buckets.totalsMs.reduce((sum, ms) => sum + ms, 0)).toBeCloseTo(answer.figures.totalMs, 6);
  for (const kinds of [answer.kinds, answer.causes])
    expect(kinds.reduce((sum, kind) => sum + kind.totalMs, 0)).toBeCloseTo(answer.figures.totalMs, 6);
  const binSec = log.durationMs / 60 / 1000;
  expect(
    answer.series.allocBytesPerSec.reduce((sum, rate) => sum + rate * binSec, 0) / answer.allocation!.totalBytes,
  ).toBeCloseTo(1, 2);
  expect(collectionDetailOf(log, answer.pauseRow[0]!).spaces.map((space) => space.name)).toContain('Eden');
});

const ASK: CollectionsAsk = { span: null, slices: 60, goalMs: 200, edgesMs: null, kind: null };

test("a pause goal counts those that break it; edges of one's own make the buckets", () => {
  const { figures, overGoal, buckets } = collectionsOf(log, {
    ...ASK,
    goalMs: collectionsOf(log, ASK).figures.p50Ms,
    edgesMs: [5, 1],
  });
  expect(overGoal.count).toBeGreaterThan(0);
  expect(overGoal.count).toBeLessThanOrEqual(figures.count / 2);
  expect(buckets.edgesMs.slice(0, 3)).toEqual([0, 1, 5]);
});

test('pauses of a picked kind are marked in the view and on the ribbon', () => {
  const kind = collectionsOf(log, ASK).kinds.find((each) => each.name.startsWith('Pause Remark'))!;
  const answer = collectionsOf(log, { ...ASK, kind: { by: 'label', name: kind.name } });
  expect(answer.pauseChosen.reduce((sum, each) => sum + each, 0)).toBe(kind.count);
  const ribbon = ribbonOf(log, {
    window: { fromMs: 0, toMs: log.durationMs },
    bins: 4000,
    kind: { by: 'label', name: kind.name },
  });
  expect(ribbon.pauseChosen.reduce((sum, each) => sum + each, 0)).toBe(kind.count);
  expect(
    ribbonOf(log, { window: { fromMs: 0, toMs: log.durationMs }, bins: 300, kind: null }).pauseChosen.includes(1),
  ).toBe(false);
});

test('the gap before each pause is that to the one before, of its heap', () => {
  const { pauseMs, pauseGapMs } = collectionsOf(log, ASK);
  expect(pauseGapMs[0]).toBeNaN();
  for (let place = 1; place < pauseMs.length; place++)
    expect(pauseGapMs[place]).toBeCloseTo(pauseMs[place]! - pauseMs[place - 1]!, 6);
});

test('sizes of the heap and of every space, before and after', () => {
  const { sizes } = collectionsOf(log, ASK);
  expect(sizes.map(({ name }) => name)).toEqual(expect.arrayContaining(['heap', 'Eden', 'Old', 'Metaspace']));
  for (const { tMs, beforeBytes, afterBytes } of sizes) {
    expect([beforeBytes.length, afterBytes.length]).toEqual([tMs.length, tMs.length]);
    expect(Array.from(tMs)).toEqual(Array.from(tMs).sort((a, b) => a - b));
  }
  const eden = sizes.find(({ name }) => name === 'Eden')!;
  expect(eden.beforeBytes.reduce((sum, bytes) => sum + bytes, 0)).toBeGreaterThan(
    eden.afterBytes.reduce((sum, bytes) => sum + bytes, 0),
  );
});

test('a log is judged by its floor, has no sites and says so', () => {
  expect(growthOf(new Subject(log), by('site'))).toMatchObject({
    observed: false,
    rows: [],
    verdict: { kind: 'growing' },
  });
  expect(allocationOf(new Subject(log), by('site')).observed).toBe(false);
});

test('a table is computed once while nothing has grown', () => {
  const subject = new Subject(leak);
  const look: Look = { ...WHOLE, span: { fromMs: 0, toMs: leak.durationMs } };
  const first = subject.table(look);
  expect(subject.table({ ...look, span: { ...look.span! } })).toBe(first);
  expect(subject.table(look, 'site')).not.toBe(first);
  expect(subject.sums({ span: look.span, settleMs: look.settleMs })).toBe(subject.sums(look));
  for (let n = 1; n < 9; n++) subject.table({ ...look, span: { fromMs: n, toMs: 50_000 } });
  expect(subject.table(look)).not.toBe(first);
  expect(subject.table(look)).toEqual(first);
  // Of what is as large as the events, only the last is kept.
  let made = 0;
  const LARGE = piece('large', (_: Subject, key: string) => `${key} ${made++}`, 1);
  for (const key of ['a', 'a', 'b', 'a']) subject.get(LARGE, key);
  expect(made).toBe(3);
});

test.each(['site', 'ownFrame', 'function', 'file', 'package', 'type', 'thread', 'heap'] as const)(
  'charged to %s, all keys together allocate and keep the same',
  (charge) => {
    const subject = new Subject(weirs);
    const [sites, charged] = [allocationOf(subject, by('site')), allocationOf(subject, by(charge))];
    expect(charged.allocBytes / sites.allocBytes).toBeCloseTo(1, 9);
    expect(charged.keptBytes / sites.keptBytes).toBeCloseTo(1, 9);
    expect(charged.rows.every((row) => row.name !== '')).toBe(true);
  },
);

test('what is found and what is not make up the whole, in tables and strata', () => {
  const subject = new Subject(weirs);
  const found = allocationOf(subject, { ...by('type'), find: 'schedule DOUBLE' });
  expect(found.rows.map((row) => row.name)).toEqual(['double[]']);
  const [all, schedules] = ['', 'schedule'].map((find) => allocationOf(subject, { ...by('site'), find })) as [
    ReturnType<typeof allocationOf>,
    ReturnType<typeof allocationOf>,
  ];
  const named = all.rows
    .filter((row) => `${row.name} ${row.type}`.toLowerCase().includes('schedule'))
    .reduce((sum, row) => sum + row.allocBytes, 0);
  expect(schedules.allocBytes).toBeGreaterThanOrEqual(named * (1 - 1e-9));
  expect(schedules.allocBytes).toBeLessThan(all.allocBytes);
  const layers = (find: string): number =>
    ribbonOf(
      weirs,
      { window: { fromMs: 0, toMs: weirs.durationMs }, bins: 50, kind: null },
      subject.chosen(find),
    ).strata.reduce((sum, bytes) => sum + bytes, 0);
  expect(layers('schedule')).toBeLessThan(layers(''));
  expect(layers('no such thing')).toBe(0);
});

test('a moment holds what its bands hold, and what it gained since another is the difference', () => {
  const subject = new Subject(weirs);
  const at = (tMs: number, band: number | null = null, againstMs: number | null = null) =>
    momentOf(subject, { look: by('type'), tMs, band, againstMs });
  const late = at(50_000);
  const sum = (parts: readonly { readonly bytes: number }[]): number =>
    parts.reduce((total, part) => total + part.bytes, 0);
  expect(sum(late.rows) / late.total.bytes).toBeCloseTo(1, 9);
  expect(sum(late.bands) / late.total.bytes).toBeCloseTo(1, 9);
  expect(
    late.bands.reduce((total, part) => total + at(50_000, part.key).total.bytes, 0) / late.total.bytes,
  ).toBeCloseTo(1, 9);
  const early = at(20_000);
  const { against } = at(20_000, null, 50_000);
  expect(against).toMatchObject({ fromMs: 20_000, toMs: 50_000, followed: true });
  for (const change of against!.rows) {
    expect(change.beforeBytes).toBeCloseTo(early.rows.find((row) => row.key === change.key)?.bytes ?? 0, 3);
    expect(change.afterBytes).toBeCloseTo(late.rows.find((row) => row.key === change.key)?.bytes ?? 0, 3);
  }
  expect(against!.rows[0]).toMatchObject({ name: 'double[]', isClear: true });
  // By band it is the same, cut another way: what came was born in between.
  const sumOf = (parts: readonly { cameBytes: number; wentBytes: number; bothBytes: number }[]): number[] =>
    (['bothBytes', 'wentBytes', 'cameBytes'] as const).map((each) =>
      Math.round(parts.reduce((sum, part) => sum + part[each], 0)),
    );
  const all = contentChange(subject.index, 20_000, 50_000, 'type');
  expect(sumOf(against!.bands)).toEqual(sumOf(all));
  for (const { born, cameBytes } of against!.bands) if (born.toMs < 20_000) expect(cameBytes).toBe(0);
  expect(momentOf(new Subject(leak), { look: WHOLE, tMs: 1500, band: null, againstMs: null }).followed).toBe(true);
  expect(momentOf(new Subject(log), { look: WHOLE, tMs: 1500, band: null, againstMs: null }).followed).toBe(false);
});

test('types and what moves with them are told where the source knows types', () => {
  const growth = growthOf(new Subject(weirs), by('ownFrame'));
  expect(growth.types![0]).toMatchObject({ name: 'double[]' });
  expect(
    growth.together.every(
      ({ types, ratios, rho }) => types.length > 1 && ratios.length === types.length && rho >= 0.95,
    ),
  ).toBe(true);
  expect(growthOf(new Subject(leak), by('ownFrame'))).toMatchObject({ types: null, together: [] });
});

test('the settle time as typed holds, and leaves out more or fewer', () => {
  const subject = new Subject(leak);
  const [all, old] = [0, 20_000].map((settleMs) => growthOf(subject, { ...WHOLE, settleMs })) as [
    ReturnType<typeof growthOf>,
    ReturnType<typeof growthOf>,
  ];
  expect([all.settleMs, old.settleMs]).toEqual([0, 20_000]);
  // What came after the last collection was never looked at, however young it may be to be kept.
  expect(all.recentLeftOut).toBeLessThan(old.recentLeftOut);
  expect(old.recentLeftOut).toBeGreaterThan(0);
  expect(old.rows[0]!.keptBytes).toBeLessThan(all.rows[0]!.keptBytes);
});

test('a limit as typed is what the growth is held against', () => {
  const limited = sample(LEAK);
  limited.givenLimitBytes = 64 * 2 ** 20;
  const { clauses } = overviewOf(new Subject(limited));
  expect(clauses.map((clause) => clause.text).join()).toMatch(/64(\.0+)? MiB limit in about/);
  limited.givenLimitBytes = 2 ** 20;
  expect(
    overviewOf(new Subject(limited))
      .clauses.map((clause) => clause.text)
      .join(),
  ).toMatch(/above the 1(\.0+)? MiB limit already/);
});

test('the weirs grow from the schedules that are cached under a key without equality, and are steady when fixed', () => {
  const growth = growthOf(new Subject(weirs), by('ownFrame'));
  expect(growth.verdict.kind).toBe('growing');
  expect(growth.rows[0]).toMatchObject({ name: 'Weirkeeper.Schedule.<init>', type: 'double[]', isOwn: true });
  expect(growth.rows[0]!.shortPlace).toMatch(/^:\d+$/);
  expect(growth.explainedRatio).toBeGreaterThan(0.8);
  expect(growth.explainedRatio).toBeLessThan(1.3);
  expect(growthOf(new Subject(fixedWeirs), by('ownFrame')).verdict.kind).toBe('steady');
});

test('a JVM recording says how births are watched, and what its lines and types mean', () => {
  expect(overviewOf(new Subject(weirs))).toMatchObject({ births: 'on', collector: 'G1' });
  expect(overviewOf(new Subject(leak)).births).toBe('all');
  expect(overviewOf(new Subject(log)).births).toBeNull();
  const sites = allocationOf(new Subject(weirs), by('ownFrame'));
  const report = sites.rows[0]!;
  expect(report.name).toBe('Weirkeeper.report');
  expect(sites.allocBytes / sites.measured!.totalBytes).toBeGreaterThan(0.95);
  expect(sites.allocBytes / sites.measured!.totalBytes).toBeLessThan(1.05);
  const detail = keyDetailOf(new Subject(weirs), WHOLE, 'ownFrame', report.key)!;
  expect(detail.lineMeans).toBe('allocation');
  expect(
    detail.path.map((step) => (step.kind === 'folded' ? `through ${step.through}` : step.frame.functionName)),
  ).toEqual(
    expect.arrayContaining([
      'Weirkeeper.main',
      'Weirkeeper.listen (lambda)',
      'Weirkeeper.report',
      'through com.sun.tools.javac.launcher',
    ]),
  );
});

test('the leak leaves the same each round, from one site; fixed, no round leaves anything of it', () => {
  const { rounds } = growthOf(new Subject(leak), by('ownFrame'));
  expect(rounds).toMatchObject({ label: 'reconnect' });
  const row = rounds!.rows[0]!;
  expect(row).toMatchObject({ name: 'subscribe' });
  const seconds = (rounds!.marksMs.at(-1)! - rounds!.marksMs[0]!) / 1000;
  expect(
    (row.lastBytes - row.firstBytes) / seconds / growthOf(new Subject(leak), by('ownFrame')).rows[0]!.growthBytesPerSec,
  ).toBeCloseTo(1, 0);
  expect(rounds!.rows.filter((each) => each.isConstant && each.name !== 'subscribe')).toEqual([]);
  const calm = growthOf(new Subject(fixed), by('ownFrame')).rounds;
  expect(calm!.rows.filter((row) => row.name === 'subscribe' && row.isConstant)).toEqual([]);
  expect(growthOf(new Subject(log), by('site')).rounds).toBeNull();
});
