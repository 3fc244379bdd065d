import { LedgerKind, Recording } from '../../src/index.ts';
import { churnOf } from '../../src/measures/churn.ts';
import { completionOf } from '../../src/measures/completion.ts';
import { ledgerAnswerOf } from '../../src/measures/ledger.ts';
import { overviewOf } from '../../src/measures/overview.ts';
import { type PathsAsk, pathsOf } from '../../src/measures/paths.ts';
import { sizesOf } from '../../src/measures/sizes.ts';
import { type Look, Subject, WHOLE } from '../../src/study/subject.ts';
import { addObject, followObjects } from '../build-recording.ts';
import { allocationOf, by, leak, weirs } from './samples.ts';

// What a find lets through of a charge and a fate, by bytes and by objects, is the same everywhere.
test.each(['', 'type=byte[]', 'size>=64', 'age<1s', 'kind=object !report'])(
  'charges, fates and every level of the paths add up to the same, finding “%s”',
  (find) => {
    const subject = new Subject(weirs);
    const look: Look = { ...by('site'), find };
    const found = subject.within(look);
    const totals = (['ownFrame', 'function', 'file', 'package', 'type', 'thread'] as const).map(
      (charge) => allocationOf(subject, { ...look, charge }).allocBytes,
    );
    const sites = allocationOf(subject, look);
    for (const total of totals) expect(total / sites.allocBytes).toBeCloseTo(1, 9);
    for (const fate of ['all', 'kept', 'died'] as const) {
      const truth = {
        bytes: sites.rows.reduce(
          (sum, row) => sum + { all: row.allocBytes, kept: row.keptOfSpanBytes, died: row.diedBytes }[fate],
          0,
        ),
        objects: sites.rows.reduce(
          (sum, row) => sum + { all: row.allocCount, kept: row.keptOfSpanCount, died: row.diedCount }[fate],
          0,
        ),
      };
      for (const [direction, counted, recursion] of [
        ['entry', 'bytes', 'folded'],
        ['entry', 'objects', 'unfolded'],
        ['allocation', 'bytes', 'unfolded'],
        ['allocation', 'objects', 'folded'],
      ] as const) {
        const ask: PathsAsk = { look, fate, counted, direction, recursion, open: [], heaviestFrom: '', focus: '' };
        const answer = pathsOf(found, ask);
        const same = (value: number, of: number): void => {
          expect(Math.abs(value - of)).toBeLessThanOrEqual(1e-9 * Math.max(1, truth[counted]));
        };
        same(answer.all, truth[counted]);
        same(answer.children.get('')!.reduce((sum, row) => sum + row.total, 0) + answer.withoutPath, truth[counted]);
        for (const id of answer.open.slice(1)) {
          const parent = [...answer.children.values()].flat().find((row) => row.id === id)!;
          same(answer.children.get(id)!.reduce((sum, row) => sum + row.total, 0) + parent.self, parent.total);
        }
        if (answer.all > 0)
          expect(
            answer.cells.filter(({ depth }) => depth === 0).reduce((sum, cell) => sum + cell.total, 0) / truth[counted],
          ).toBeGreaterThan(0.8);
      }
    }
  },
);

test('a find by fate is the same as the fate of a table', () => {
  const subject = new Subject(weirs);
  const all = allocationOf(subject, by('site'));
  for (const [fate, column] of [
    ['kept', 'keptOfSpanBytes'],
    ['died', 'diedBytes'],
  ] as const) {
    expect(
      allocationOf(subject, { ...by('site'), find: `fate=${fate}` }).allocBytes /
        all.rows.reduce((sum, row) => sum + row[column], 0),
    ).toBeCloseTo(1, 9);
  }
  const look = { ...by('site'), find: 'fate=kept' };
  expect(
    ledgerAnswerOf(subject.within(look), { look, aim: { kind: 'place', place: 0 }, count: 5, gapMs: 100, runs: true })
      .total,
  ).toBeLessThan(
    ledgerAnswerOf(subject, { look: by('site'), aim: { kind: 'place', place: 0 }, count: 5, gapMs: 100, runs: true })
      .total,
  );
  expect(subject.within(look).verdict(look)).toBe(subject.verdict(look));
});

test('what came and went unseen is a line of the ledger, and all lines are the events that the rail counts', () => {
  const subject = new Subject(leak);
  const look = { ...WHOLE, find: 'kind=flow' };
  const flows = ledgerAnswerOf(subject.within(look), {
    look,
    aim: { kind: 'place', place: 0 },
    count: 100,
    gapMs: 100,
    runs: true,
  });
  expect(flows.total).toBe(leak.tables.flows.length);
  expect(flows.lines.reduce((sum, { bytes }) => sum + bytes, 0)).toBeCloseTo(
    leak.tables.flows.col.bytes.subarray(0, flows.total).reduce((sum, bytes) => sum + bytes, 0),
    0,
  );
  for (const line of flows.lines)
    expect([line.kind, line.lifetimeMs > 0, line.bytesSe > 0, line.site !== '']).toEqual([
      LedgerKind.flow,
      true,
      true,
      true,
    ]);
  expect(
    ledgerAnswerOf(subject, { look: WHOLE, aim: { kind: 'place', place: 0 }, count: 1, gapMs: 100, runs: true }).total,
  ).toBe(overviewOf(subject).events);
});

test('kinds are lines of the ledger', () => {
  const subject = new Subject(weirs);
  const lines = (find: string): number => {
    const look = { ...WHOLE, find };
    return ledgerAnswerOf(subject.within(look), {
      look,
      aim: { kind: 'place', place: 0 },
      count: 50,
      gapMs: 100,
      runs: true,
    }).total;
  };
  const { objects, collections, marks } = weirs.tables;
  expect([lines('kind=collection'), lines('kind=mark'), lines('kind=object'), lines('!kind=object')]).toEqual([
    collections.length,
    marks.length,
    objects.length,
    collections.length + marks.length,
  ]);
});

test('churn: who allocates most causes most young collections, and all of them are shared out', () => {
  const subject = new Subject(weirs);
  const churn = churnOf(subject, WHOLE);
  expect(churn.rows[0]).toMatchObject({ name: 'Weirkeeper.report', type: 'byte[]' });
  expect(churn.rows[0]!.lifetime!.highMs).toBeLessThan(1000);
  expect(churn.rows.find(({ name }) => name === 'Weirkeeper.Schedule.<init>')!.lifetime).toMatchObject({ highMs: NaN });
  expect(churn.collections).toBeGreaterThan(60);
  expect(churn.rows.reduce((sum, row) => sum + row.caused, 0) / churn.collections).toBeCloseTo(1, 6);
  const look = { ...WHOLE, find: 'age<1s' };
  expect(churnOf(subject.within(look), look).rows.reduce((sum, row) => sum + row.caused, 0)).toBeLessThan(
    churn.collections,
  );
});

test('churn of a program of which only survivors are sampled rests on what is inferred', () => {
  const churn = churnOf(new Subject(leak), WHOLE);
  const parse = churn.rows.find(({ name }) => name === 'parseReading')!;
  expect(parse.lifetime).toMatchObject({ lowMs: 0 });
  expect(parse.caused / churn.collections).toBeGreaterThan(0.3);
});

test('figures of rounds are those of whole rounds', () => {
  const subject = new Subject(leak);
  const { roundLabels } = allocationOf(subject, by('site'));
  expect(roundLabels.length).toBeGreaterThan(0);
  const { rounds, span, rows } = allocationOf(subject, by('site'), { round: 'no such mark' });
  expect(rounds!.label).toBe(roundLabels[0]);
  const { marks } = leak.tables;
  const times = Array.from({ length: marks.length }, (_, row) => row)
    .filter((row) => leak.strings.text(marks.col.labelId[row]!) === roundLabels[0])
    .map((row) => marks.col.tMs[row]!);
  expect([rounds!.count, span.fromMs, span.toMs]).toEqual([times.length - 1, times[0], times[times.length - 1]]);
  expect(rows).toEqual(allocationOf(subject, { ...by('site'), span }).rows);
});

test('what is typed is completed with what the recording has most of', () => {
  const subject = new Subject(weirs);
  expect(completionOf(subject, 'function=Weirk', 14)[0]).toEqual({
    text: 'function=Weirkeeper.report',
    hint: expect.stringMatching(/^\d\.\d+ GiB$|^\d+ MiB$/) as string,
  });
  expect(completionOf(subject, 'type=', 5)[0]!.text).toBe('type=byte[]');
});

test('the outline from the entry folds the launcher, and the heaviest way leads to the formatter', () => {
  const answer = pathsOf(new Subject(weirs), {
    look: WHOLE,
    fate: 'all',
    counted: 'bytes',
    direction: 'entry',
    recursion: 'folded',
    open: [],
    heaviestFrom: '',
    focus: '',
  });
  expect([answer.counted, answer.leftOut]).toEqual([true, 0]);
  const words = [...answer.children.values()].flat().flatMap((row) => row.words);
  expect(words).toContainEqual({ kind: 'through', count: 3, of: 'com.sun.tools.javac.launcher' });
  expect(words.some((word) => word.kind === 'frame' && word.name === 'Weirkeeper.report' && word.isOwn)).toBe(true);
  expect(
    pathsOf(new Subject(leak), {
      look: WHOLE,
      fate: 'all',
      counted: 'objects',
      direction: 'allocation',
      recursion: 'folded',
      open: [],
      heaviestFrom: null,
      focus: '',
    }).counted,
  ).toBe(true);
});

test('sizes tell what became of them, as the table of the same charge does', () => {
  const subject = new Subject(weirs);
  const table = new Map(allocationOf(subject, by('type')).rows.map((row) => [row.key, row]));
  for (const row of sizesOf(subject, by('type')).rows) {
    const { allocBytes, keptOfSpanBytes, diedBytes } = table.get(row.key)!;
    expect([row.allocBytes, row.keptOfSpanBytes, row.diedBytes]).toEqual([allocBytes, keptOfSpanBytes, diedBytes]);
    expect(row.bytes / row.allocBytes).toBeCloseTo(1, 9);
  }
});

test('sizes by type count what was allocated', () => {
  const subject = new Subject(weirs);
  const { rows } = sizesOf(subject, by('type'));
  const sites = allocationOf(subject, by('type'));
  expect(rows.reduce((sum, row) => sum + row.bytes, 0) / sites.allocBytes).toBeCloseTo(1, 6);
  expect(rows.find((row) => row.name === 'java.lang.String')).toMatchObject({ smallestBytes: 24, largestBytes: 24 });
});

test('of very many keys the heaviest by what is asked for are listed, and shares are of all', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  for (let n = 0; n < 700; n++) addObject(recording, { bornMs: n, diedMs: n + 10, bytes: 1000 + n, site: `site${n}` });
  addObject(recording, { bornMs: 5, bytes: 8, site: 'keep' });
  recording.reach(60_000);
  const subject = new Subject(recording);
  const [all, kept, objects] = [
    allocationOf(subject, by('site')),
    allocationOf(subject, by('site'), { fate: 'kept' }),
    allocationOf(subject, by('site'), { counted: 'objects' }),
  ];
  expect([all.rows.length, all.keyCount, all.all, all.rows[0]!.name]).toEqual([500, 701, all.allocBytes, 'site699']);
  expect(all.rows.some(({ name }) => name === 'keep')).toBe(false);
  expect([kept.rows[0]!.name, kept.all]).toEqual(['keep', 8]);
  expect(objects.all).toBe(701);
});
