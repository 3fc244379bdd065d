import {
  askMeasure,
  type GrowthAnswer,
  type LedgerAnswer,
  type LookAsk,
  type Recording,
  Study,
  WHOLE_SIDE,
} from '@brisk-heron/core';
import { leak, weirs } from '../../../core/test/measures/samples.ts';
import { floorLayout, trendLabel } from '../../src/questions/growth/floor-chart.ts';
import { eventFiles } from '../../src/worker/event-files.ts';
import { ledgerFile } from '../../src/worker/ledger-file.ts';
import type { Progress } from '../../src/worker/progress.ts';
import { summaryOf } from '../../src/worker/summary.ts';

const studyOf = (recording: Recording): Study => new Study({ runs: [recording] });

const ledgerOf = (find: string, onProgress: (progress: Progress) => void, isStopped: () => boolean) => {
  const ask: LookAsk = { charge: 'site', find };
  const side = studyOf(weirs).side(WHOLE_SIDE);
  return ledgerFile(side.found(ask), side.look(ask), onProgress, isStopped);
};

test('the floor chart holds every point and the line', () => {
  const growth = askMeasure(studyOf(leak), {}, 'growth', { charge: 'site' }) as GrowthAnswer;
  expect(trendLabel(growth)).toMatch(/whole collections, p < 0\.001$/);
  const layout = floorLayout(growth);
  expect(Math.max(...growth.verdict.floor.bytes)).toBeLessThan(layout.mostBytes);
  expect(layout.line![1][1] - layout.line![0][1]).toBeCloseTo(
    (growth.verdict.slopeBytesPerSec * (layout.line![1][0] - layout.line![0][0])) / 1000,
    3,
  );
  expect(layout.band).toHaveLength(6);
});

test('the list keeps a strip and the sentence', () => {
  const summary = summaryOf(studyOf(leak));
  expect(summary.strip).toHaveLength(80);
  expect(Math.max(...summary.strip)).toBeGreaterThan(5e6);
  expect(summary).toMatchObject({ program: 'tidewatch', verdictKind: 'growing' });
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

test('the ledger is written as a line an event, and stops when it is told to', async () => {
  const told: Progress[] = [];
  const file = await ledgerOf(
    '',
    (progress) => told.push(progress),
    () => false,
  );
  const lines = (await file!.text()).trim().split('\n');
  const { total } = askMeasure(studyOf(weirs), {}, 'ledger', { count: 1 }) as LedgerAnswer;
  expect([lines.length, told.length, told.at(-1)!.doneRatio]).toEqual([total + 1, Math.ceil(total / 10_000), 1]);
  const cells = lines.map((line) => line.split(','));
  expect(cells[0]!.slice(0, 6)).toEqual(['time ms', 'off by ms', 'event', 'what', 'bytes', 'bytes ±']);
  expect(cells.slice(1).every((line, at) => at === 0 || Number(line[0]) >= Number(cells[at]![0]))).toBe(true);
  expect(new Set(cells.slice(1).map((line) => line[2]))).toEqual(new Set(['birth', 'collection']));
  expect(cells.filter((line) => line[8] === 'died').length).toBeGreaterThan(10_000);
  const nothing = (): undefined => undefined;
  expect(await ledgerOf('', nothing, () => true)).toBeNull();
  const marks = await ledgerOf('kind=mark', nothing, () => false);
  expect(await marks!.text()).toBe(`${lines[0]}\n`);
});
