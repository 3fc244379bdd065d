import { programPauses } from '../../src/analysis/program-pauses.ts';
import { stepPause, type PauseStep } from '../../src/query/step-pauses.ts';
import { recordingOf } from '../build-recording.ts';

const recording = recordingOf(
  [
    { startMs: 100, ms: 5, before: 1, after: 1, label: 'young' },
    { startMs: 200, ms: 40, before: 1, after: 1, label: 'whole' },
    { startMs: 300, ms: 5, before: 1, after: 1, label: 'young' },
    { startMs: 400, ms: 9, before: 1, after: 1, label: 'whole' },
  ],
  1000,
);
const selection = programPauses(recording, { fromMs: 0, toMs: 1000 });
const walk = (from: number, step: PauseStep, times: number): number[] => {
  const rows: number[] = [];
  for (let row = from; rows.length < times;) rows.push((row = stepPause(recording, selection, row, step)));
  return rows;
};

test('along time, to the end and no further', () => {
  expect(walk(-1, 'next', 5)).toEqual([0, 1, 2, 3, -1]);
  expect(walk(-1, 'previous', 5)).toEqual([3, 2, 1, 0, -1]);
});

test('from a moment on, where no pause is selected', () => {
  expect(stepPause(recording, selection, -1, 'next', { fromMs: 250 })).toBe(2);
  expect(stepPause(recording, selection, -1, 'previous', { fromMs: 250 })).toBe(1);
  expect(stepPause(recording, selection, -1, 'next', { fromMs: 900 })).toBe(-1);
});

test('down the list of the longest, equally long ones in order of time', () => {
  expect(walk(-1, 'nextLongest', 5)).toEqual([1, 3, 0, 2, -1]);
});

test('within a kind', () => {
  expect([
    stepPause(recording, selection, 0, 'nextOfKind'),
    stepPause(recording, selection, 2, 'nextOfKind'),
    stepPause(recording, selection, 3, 'previousOfKind'),
    stepPause(recording, selection, -1, 'nextOfKind'),
  ]).toEqual([2, -1, 1, -1]);
});

test('in an empty recording there is nowhere to go', () => {
  const empty = recordingOf([], 10);
  const none = programPauses(empty, { fromMs: 0, toMs: 10 });
  for (const step of ['next', 'previous', 'nextLongest', 'nextOfKind', 'previousOfKind'] as const)
    expect(stepPause(empty, none, -1, step)).toBe(-1);
});
