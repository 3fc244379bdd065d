import { alikeRuns } from '../../src/analysis/alike-runs.ts';
import { chargeText } from '../../src/model/charge.ts';
import { Recording } from '../../src/model/recording.ts';
import { findOrigins } from '../../src/query/find-origins.ts';
import { ledgerCollection, LedgerKind, ledgerOf, ledgerPlace } from '../../src/query/ledger.ts';
import { addCollection, addFlow, addObject } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

function world(objects: number): Recording {
  const random = seeded(objects);
  const recording = new Recording('recording');
  recording.addHeap('main');
  for (let n = 0; n < objects; n++) {
    const bornMs = random() < 0.3 ? Math.floor(random() * 20) * 500 : random() * 10_000;
    addObject(recording, {
      bornMs,
      bytes: 8,
      site: `site${n % 5}`,
      ...(random() < 0.5 ? { diedMs: bornMs + 10 } : {}),
    });
  }
  for (let tMs = 0; tMs < 10_000; tMs += 1000) addCollection(recording, { startMs: tMs, ms: 3, before: 9, after: 4 });
  return recording;
}

test.each([0, 1, 40, 5000])(
  'with %i objects, the ledger is all events of the span in order of time, each once',
  (objects) => {
    const recording = world(objects);
    const span = { fromMs: 1200, toMs: 8700 };
    const ledger = ledgerOf(recording, span);
    const { bornMs } = recording.tables.objects.col;
    const births = Array.from({ length: objects }, (_, row) => row).filter(
      (row) => bornMs[row]! >= 1200 && bornMs[row]! < 8700,
    );
    expect(Array.from(ledger.tMs)).toEqual(Array.from(ledger.tMs).sort((a, b) => a - b));
    const rows = Array.from(ledger.row).filter((_, at) => ledger.kind[at] === LedgerKind.birth);
    expect(rows.sort((a, b) => a - b)).toEqual(births);
    expect(ledger.kind.filter((kind) => kind === LedgerKind.collection)).toHaveLength(7);
    ledger.row.forEach((row, at) => {
      if (ledger.kind[at] === LedgerKind.birth) expect(ledger.tMs[at]).toBe(bornMs[row]);
    });
  },
);

test('an instant and the collections around a place are found', () => {
  const ledger = ledgerOf(world(500), { fromMs: 0, toMs: 10_000 });
  const place = ledgerPlace(ledger, 4500);
  expect(ledger.tMs[place]).toBeGreaterThanOrEqual(4500);
  expect(ledger.tMs[place - 1]).toBeLessThan(4500);
  expect(ledger.tMs[ledgerCollection(ledger, place, 1)]).toBe(5000);
  expect(ledger.tMs[ledgerCollection(ledger, place, -1)]).toBe(4000);
  expect(ledgerCollection(ledger, ledger.row.length - 1, 1)).toBe(-1);
  expect(ledgerPlace(ledger, 99_999)).toBe(ledger.row.length);
});

test('flows stand where their interval begins, and are found and chosen like objects', () => {
  const recording = world(20);
  for (let n = 0; n < 6; n++)
    addFlow(recording, { fromMs: n * 1500, toMs: (n + 1) * 1500, bytes: 100, site: `site${n % 2}` });
  const whole = { fromMs: 0, toMs: 10_000 };
  const timesOf = (ledger: ReturnType<typeof ledgerOf>): number[] =>
    Array.from(ledger.tMs).filter((_, at) => ledger.kind[at] === LedgerKind.flow);
  expect(timesOf(ledgerOf(recording, whole))).toEqual([0, 1500, 3000, 4500, 6000, 7500]);
  expect(timesOf(ledgerOf(recording, { fromMs: 1000, toMs: 4500 }))).toEqual([1500, 3000]);
  expect(timesOf(ledgerOf(recording, whole, { chosen: findOrigins(recording, 'site1') }))).toEqual([1500, 4500, 7500]);
  expect(ledgerOf(recording, whole, { kinds: new Set(['flow'] as const) }).row).toHaveLength(6);
  expect(timesOf(ledgerOf(recording, whole, { kinds: new Set(['object', 'mark'] as const) }))).toEqual([]);
});

test('what is not found is left out, collections stay', () => {
  const recording = world(500);
  const ledger = ledgerOf(recording, { fromMs: 0, toMs: 10_000 }, { chosen: findOrigins(recording, 'site3') });
  expect(ledger.kind.filter((kind) => kind === LedgerKind.birth)).toHaveLength(100);
  expect(ledger.kind.filter((kind) => kind === LedgerKind.collection)).toHaveLength(10);
});

test('runs of alike allocations are told apart by gaps, counted with what they stand for', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  for (let n = 0; n < 40; n++) {
    const bornMs = 100 + n * 5;
    addObject(recording, { bornMs, diedMs: bornMs + 20, bytes: 10, site: 'parse', type: 'Field', probability: 0.5 });
    if (n % 2 === 0) addObject(recording, { bornMs, bytes: 1, site: 'keep', type: 'Entry' });
  }
  for (let n = 0; n < 12; n++)
    addObject(recording, { bornMs: 5000 + n, diedMs: 6000, bytes: 10, site: 'parse', type: 'Field' });
  for (let n = 0; n < 9; n++) addObject(recording, { bornMs: 8000 + n, bytes: 10, site: 'parse', type: 'Field' });
  recording.reach(9000);
  const runs = alikeRuns(recording, { fromMs: 0, toMs: 9000 }, { gapMs: 50, most: 10 });
  const told = runs.map((run) => [
    chargeText(recording, 'type', recording.tables.origins.col.typeId[run.originId]!),
    run.fromMs,
    run.toMs,
    run.seen,
    run.count,
    run.bytes,
    run.diedRatio,
  ]);
  expect(told).toEqual([
    ['Field', 100, 295, 40, 80, 800, 1],
    ['Field', 5000, 5011, 12, 12, 120, 1],
    ['Entry', 100, 290, 20, 20, 20, 0],
  ]);
  expect(runs.map(({ countSe, bytesSe }) => [countSe ** 2, bytesSe ** 2])).toEqual([
    [expect.closeTo(80, 6), expect.closeTo(8000, 6)],
    [0, 0],
    [0, 0],
  ]);
  expect(alikeRuns(recording, { fromMs: 0, toMs: 9000 }, { gapMs: 50, most: 1 })).toHaveLength(1);
  expect(alikeRuns(recording, { fromMs: 8000, toMs: 9000 }, { gapMs: 50, most: 10 })).toEqual([]);
});
