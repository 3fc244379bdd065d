import { LedgerKind, Recording } from '@brisk-heron/core';
import { addObject, followObjects } from '../../../core/test/build-recording.ts';
import { churnOf } from '../../src/workers/answers/churn.ts';
import { Evidence, WHOLE, type Look } from '../../src/workers/answers/evidence.ts';
import { completionOf } from '../../src/workers/answers/found.ts';
import { ledgerAnswerOf } from '../../src/workers/answers/ledger.ts';
import { overviewOf } from '../../src/workers/answers/overview.ts';
import { pathsOf, type PathsAsk } from '../../src/workers/answers/paths.ts';
import { sizesOf } from '../../src/workers/answers/sizes.ts';
import { eventFiles } from '../../src/workers/event-files.ts';
import { ledgerFile } from '../../src/workers/ledger-file.ts';
import type { Progress } from '../../src/workers/progress.ts';
import { allocationOf, by, leak, weirs } from './samples.ts';

// What a find lets through of a charge and a fate, by bytes and by objects, is the same everywhere.
test.each(['', 'type=byte[]', 'size>=64', 'age<1s', 'kind=object !report'])(
  'charges, fates and every level of the paths add up to the same, finding “%s”',
  (find) => {
    const evidence = new Evidence(weirs);
    const look: Look = { ...by('site'), find };
    const found = evidence.within(look);
    const totals = (['ownFrame', 'function', 'file', 'package', 'type', 'thread'] as const).map(
      (charge) => allocationOf(evidence, { ...look, charge }).allocBytes,
    );
    const sites = allocationOf(evidence, look);
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
      for (const [direction, measure, recursion] of [
        ['entry', 'bytes', 'folded'],
        ['entry', 'objects', 'unfolded'],
        ['allocation', 'bytes', 'unfolded'],
        ['allocation', 'objects', 'folded'],
      ] as const) {
        const ask: PathsAsk = { look, fate, measure, direction, recursion, open: [], heaviestFrom: '', focus: '' };
        const answer = pathsOf(found, ask);
        const same = (value: number, of: number): void => {
          expect(Math.abs(value - of)).toBeLessThanOrEqual(1e-9 * Math.max(1, truth[measure]));
        };
        same(answer.all, truth[measure]);
        same(answer.children.get('')!.reduce((sum, row) => sum + row.total, 0) + answer.withoutPath, truth[measure]);
        for (const id of answer.open.slice(1)) {
          const parent = [...answer.children.values()].flat().find((row) => row.id === id)!;
          same(answer.children.get(id)!.reduce((sum, row) => sum + row.total, 0) + parent.self, parent.total);
        }
        if (answer.all > 0)
          expect(
            answer.cells.filter(({ depth }) => depth === 0).reduce((sum, cell) => sum + cell.total, 0) / truth[measure],
          ).toBeGreaterThan(0.8);
      }
    }
  },
);

test('a find by fate is the same as the fate of a table', () => {
  const evidence = new Evidence(weirs);
  const all = allocationOf(evidence, by('site'));
  for (const [fate, column] of [
    ['kept', 'keptOfSpanBytes'],
    ['died', 'diedBytes'],
  ] as const) {
    expect(
      allocationOf(evidence, { ...by('site'), find: `fate=${fate}` }).allocBytes /
        all.rows.reduce((sum, row) => sum + row[column], 0),
    ).toBeCloseTo(1, 9);
  }
  const look = { ...by('site'), find: 'fate=kept' };
  expect(
    ledgerAnswerOf(evidence.within(look), { look, aim: { kind: 'place', place: 0 }, count: 5, gapMs: 100 }).total,
  ).toBeLessThan(
    ledgerAnswerOf(evidence, { look: by('site'), aim: { kind: 'place', place: 0 }, count: 5, gapMs: 100 }).total,
  );
  expect(evidence.within(look).verdict(look)).toBe(evidence.verdict(look));
});

test('what came and went unseen is a line of the ledger, and all lines are the events that the rail counts', () => {
  const evidence = new Evidence(leak);
  const look = { ...WHOLE, find: 'kind=flow' };
  const flows = ledgerAnswerOf(evidence.within(look), {
    look,
    aim: { kind: 'place', place: 0 },
    count: 100,
    gapMs: 100,
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
  expect(ledgerAnswerOf(evidence, { look: WHOLE, aim: { kind: 'place', place: 0 }, count: 1, gapMs: 100 }).total).toBe(
    overviewOf(evidence).events,
  );
});

test('kinds are lines of the ledger', () => {
  const evidence = new Evidence(weirs);
  const lines = (find: string): number => {
    const look = { ...WHOLE, find };
    return ledgerAnswerOf(evidence.within(look), { look, aim: { kind: 'place', place: 0 }, count: 50, gapMs: 100 })
      .total;
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
  const evidence = new Evidence(weirs);
  const churn = churnOf(evidence, WHOLE);
  expect(churn.rows[0]).toMatchObject({ name: 'Weirkeeper.report', type: 'byte[]' });
  expect(churn.rows[0]!.lifetime!.highMs).toBeLessThan(1000);
  expect(churn.rows.find(({ name }) => name === 'Weirkeeper.Schedule.<init>')!.lifetime).toMatchObject({ highMs: NaN });
  expect(churn.collections).toBeGreaterThan(60);
  expect(churn.rows.reduce((sum, row) => sum + row.caused, 0) / churn.collections).toBeCloseTo(1, 6);
  const look = { ...WHOLE, find: 'age<1s' };
  expect(churnOf(evidence.within(look), look).rows.reduce((sum, row) => sum + row.caused, 0)).toBeLessThan(
    churn.collections,
  );
});

test('churn of a program of which only survivors are sampled rests on what is inferred', () => {
  const churn = churnOf(new Evidence(leak), WHOLE);
  const parse = churn.rows.find(({ name }) => name === 'parseReading')!;
  expect(parse.lifetime).toMatchObject({ lowMs: 0 });
  expect(parse.caused / churn.collections).toBeGreaterThan(0.3);
});

test('figures of rounds are those of whole rounds', () => {
  const evidence = new Evidence(leak);
  const { roundLabels } = allocationOf(evidence, by('site'));
  expect(roundLabels.length).toBeGreaterThan(0);
  const { rounds, span, rows } = allocationOf(evidence, by('site'), { round: 'no such mark' });
  expect(rounds!.label).toBe(roundLabels[0]);
  const { marks } = leak.tables;
  const times = Array.from({ length: marks.length }, (_, row) => row)
    .filter((row) => leak.strings.text(marks.col.labelId[row]!) === roundLabels[0])
    .map((row) => marks.col.tMs[row]!);
  expect([rounds!.count, span.fromMs, span.toMs]).toEqual([times.length - 1, times[0], times[times.length - 1]]);
  expect(rows).toEqual(allocationOf(evidence, { ...by('site'), span }).rows);
});

test('what is typed is completed with what the recording has most of', () => {
  const evidence = new Evidence(weirs);
  expect(completionOf(evidence, 'function=Weirk', 14)[0]).toEqual({
    text: 'function=Weirkeeper.report',
    hint: expect.stringMatching(/^\d\.\d+ GiB$|^\d+ MiB$/) as string,
  });
  expect(completionOf(evidence, 'type=', 5)[0]!.text).toBe('type=byte[]');
});

test('events are written as files, and stop when they are no longer wanted', async () => {
  const told: number[] = [];
  const files = await eventFiles(
    weirs,
    ({ doneRatio }) => told.push(doneRatio!),
    () => false,
  );
  expect(
    Buffer.from(await files!.events.arrayBuffer())
      .subarray(0, 6)
      .toString(),
  ).toBe('ARROW1');
  expect(files!.paths.size).toBeGreaterThan(10_000);
  expect(told[told.length - 1]).toBe(1);
  expect(
    await eventFiles(
      weirs,
      () => undefined,
      () => told.length > 0,
    ),
  ).toBeNull();
});

test('the outline from the entry folds the launcher, and the heaviest way leads to the formatter', () => {
  const answer = pathsOf(new Evidence(weirs), {
    look: WHOLE,
    fate: 'all',
    measure: 'bytes',
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
    pathsOf(new Evidence(leak), {
      look: WHOLE,
      fate: 'all',
      measure: 'objects',
      direction: 'allocation',
      recursion: 'folded',
      open: [],
      heaviestFrom: null,
      focus: '',
    }).counted,
  ).toBe(true);
});

test('sizes tell what became of them, as the table of the same charge does', () => {
  const evidence = new Evidence(weirs);
  const table = new Map(allocationOf(evidence, by('type')).rows.map((row) => [row.key, row]));
  for (const row of sizesOf(evidence, by('type')).rows) {
    const { allocBytes, keptOfSpanBytes, diedBytes } = table.get(row.key)!;
    expect([row.allocBytes, row.keptOfSpanBytes, row.diedBytes]).toEqual([allocBytes, keptOfSpanBytes, diedBytes]);
    expect(row.bytes / row.allocBytes).toBeCloseTo(1, 9);
  }
});

test('sizes by type count what was allocated', () => {
  const evidence = new Evidence(weirs);
  const { rows } = sizesOf(evidence, by('type'));
  const sites = allocationOf(evidence, by('type'));
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
  const evidence = new Evidence(recording);
  const [all, kept, objects] = [
    allocationOf(evidence, by('site')),
    allocationOf(evidence, by('site'), { fate: 'kept' }),
    allocationOf(evidence, by('site'), { measure: 'objects' }),
  ];
  expect([all.rows.length, all.keyCount, all.all, all.rows[0]!.name]).toEqual([500, 701, all.allocBytes, 'site699']);
  expect(all.rows.some(({ name }) => name === 'keep')).toBe(false);
  expect([kept.rows[0]!.name, kept.all]).toEqual(['keep', 8]);
  expect(objects.all).toBe(701);
});

test('the ledger is written as a line an event, and stops when it is told to', async () => {
  const evidence = new Evidence(weirs);
  const told: Progress[] = [];
  const file = await ledgerFile(
    evidence,
    by('site'),
    (progress) => told.push(progress),
    () => false,
  );
  const lines = (await file!.text()).trim().split('\n');
  const total = ledgerAnswerOf(evidence, {
    look: by('site'),
    aim: { kind: 'place', place: 0 },
    count: 1,
    gapMs: 100,
  }).total;
  expect([lines.length, told.length, told.at(-1)!.doneRatio]).toEqual([total + 1, Math.ceil(total / 10_000), 1]);
  const cells = lines.map((line) => line.split(','));
  expect(cells[0]!.slice(0, 6)).toEqual(['time ms', 'off by ms', 'event', 'what', 'bytes', 'bytes ±']);
  expect(cells.slice(1).every((line, at) => at === 0 || Number(line[0]) >= Number(cells[at]![0]))).toBe(true);
  expect(new Set(cells.slice(1).map((line) => line[2]))).toEqual(new Set(['birth', 'collection']));
  expect(cells.filter((line) => line[8] === 'died').length).toBeGreaterThan(10_000);
  expect(
    await ledgerFile(
      evidence,
      by('site'),
      () => undefined,
      () => true,
    ),
  ).toBeNull();
  const marks = await ledgerFile(
    evidence,
    { ...by('site'), find: 'kind=mark' },
    () => undefined,
    () => false,
  );
  expect(await marks!.text()).toBe(`${lines[0]}\n`);
});
