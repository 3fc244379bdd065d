import { keptSeries } from '../../src/analysis/kept-series.ts';
import { chargeGroups, chargeText } from '../../src/model/charge.ts';
import { addObject, recordingOf } from '../build-recording.ts';

test('what was born in a span and lives is told at the end of each slot, by key', () => {
  const recording = recordingOf([], 1000);
  addObject(recording, { bornMs: 50, bytes: 1e6, site: 'before' });
  addObject(recording, { bornMs: 110, bytes: 100, site: 'stays' });
  addObject(recording, { bornMs: 450, bytes: 10, site: 'stays', probability: 0.5 });
  addObject(recording, { bornMs: 250, diedMs: 650, bytes: 1000, site: 'goes' });
  addObject(recording, { bornMs: 250, diedMs: 260, bytes: 1000, site: 'goes' });
  recording.reach(1000);
  const { keys } = chargeGroups(recording, 'function');
  const series = keptSeries(recording, { fromMs: 100, toMs: Infinity }, 'function', 9);
  const told = Array.from(keys, (key) => [chargeText(recording, 'function', key), series(key)] as const);
  const of = (name: string): number[] | null => {
    const found = told.find(([text]) => text.startsWith(name))![1];
    return found === null ? null : Array.from(found);
  };
  expect(of('before')).toBeNull();
  expect(of('stays')).toEqual([100, 100, 100, 120, 120, 120, 120, 120, 120]);
  expect(of('goes')).toEqual([0, 1000, 1000, 1000, 1000, 0, 0, 0, 0]);
  expect(series(987_654)).toBeNull();
});
