import { sectionTable } from '../../src/analysis/sections.ts';
import { chargeText } from '../../src/model/charge.ts';
import type { Recording } from '../../src/model/recording.ts';
import { addObject, followObjects, recordingOf } from '../build-recording.ts';

const ROUND_MS = 1000;
const ROUNDS = 8;

function mark(recording: Recording, tMs: number, label: string): void {
  const row = recording.tables.marks.addRow();
  recording.tables.marks.col.tMs[row] = tMs;
  recording.tables.marks.col.labelId[row] = recording.intern(label);
}

/** Eight rounds of “tide”, each cut by “read” and “sent”, unless the label is left out. */
function rounds(cut = true): Recording {
  const recording = recordingOf(
    Array.from({ length: ROUNDS + 1 }, (_, n) => ({ startMs: n * ROUND_MS + 50, ms: 5, before: 10, after: 5 })),
    ROUNDS * ROUND_MS + 500,
  );
  followObjects(recording);
  for (let n = 0; n <= ROUNDS; n++) {
    mark(recording, n * ROUND_MS, 'tide');
    if (cut && n < ROUNDS) {
      mark(recording, n * ROUND_MS + 400, 'read');
      mark(recording, n * ROUND_MS + 700, 'sent');
    }
  }
  return recording;
}

const SPAN = { fromMs: 0, toMs: ROUNDS * ROUND_MS + 500 };
const told = (recording: Recording) => {
  const table = sectionTable(recording, SPAN, 'tide', 'site')!;
  return {
    ...table,
    keys: table.keys.map(({ key, section, ...figures }) => ({
      ...figures,
      site: chargeText(recording, 'site', key).split(' ')[0],
      section: `${table.sections[section]!.from} ${table.sections[section]!.to}`,
    })),
  };
};

test('one object a round is charged to the section in which it is born, and what goes again is not', () => {
  const recording = rounds();
  for (let n = 0; n < ROUNDS; n++) {
    const at = n * ROUND_MS;
    addObject(recording, { bornMs: at + 500, bytes: 100, site: 'subscribe' });
    // Replaced a round later, and gone at once.
    addObject(recording, { bornMs: at + 100, diedMs: at + ROUND_MS + 50, bytes: 900, site: 'session' });
    addObject(recording, { bornMs: at + 800, diedMs: at + 850, bytes: 5000, site: 'parse' });
  }
  // Once, and before the rounds.
  addObject(recording, { bornMs: 3100, bytes: 4000, site: 'cache' });
  const { keys, sections, countedMs } = told(recording);
  expect(countedMs).toBe(ROUNDS * ROUND_MS + 55);
  expect(keys[0]).toMatchObject({
    site: 'subscribe',
    section: 'read sent',
    perRoundBytes: 100,
    perRoundSe: 0,
    medianCount: 1,
    agreeing: ROUNDS,
    isConstant: true,
  });
  expect(keys.filter(({ isConstant }) => isConstant)).toHaveLength(1);
  expect(keys.map(({ site }) => site)).not.toContain('parse');
  expect(keys.find(({ site }) => site === 'cache')).toMatchObject({ perRoundBytes: 500, isConstant: false });
  expect(sections.map(({ from, to, rounds: times }) => [from, to, times])).toEqual([
    ['tide', 'read', ROUNDS],
    ['read', 'sent', ROUNDS],
    ['sent', 'tide', ROUNDS],
  ]);
  expect(sections[1]!.perRoundBytes).toBe(100);
});

test('sampled objects leave an error, which the truth is within', () => {
  const recording = rounds();
  for (let n = 0; n < ROUNDS; n++)
    for (let k = 0; k < 40; k++)
      if ((n * 7 + k * 3) % 4 === 0)
        addObject(recording, { bornMs: n * ROUND_MS + 450 + k, bytes: 50, site: 'keep', probability: 0.25 });
  const [first] = told(recording).keys;
  expect(first).toMatchObject({ site: 'keep', section: 'read sent' });
  expect(Math.abs(first!.perRoundBytes - 2000)).toBeLessThanOrEqual(1.96 * first!.perRoundSe + 1);
});

test('rounds that are not cut, or too few, have no sections; a section that a round lacks is not counted in it', () => {
  expect(sectionTable(rounds(false), SPAN, 'tide', 'site')).toBeNull();
  expect(sectionTable(rounds(), { fromMs: 0, toMs: 2500 }, 'tide', 'site')).toBeNull();
  const seldom = rounds(false);
  for (const n of [1, 3, 5]) {
    mark(seldom, n * ROUND_MS + 200, 'flood');
    addObject(seldom, { bornMs: n * ROUND_MS + 300, bytes: 60, site: 'alarm' });
  }
  const { sections } = told(seldom);
  const flood = sections.find(({ from }) => from === 'flood')!;
  expect(flood).toMatchObject({ to: 'tide', rounds: 3, perRoundBytes: 60, perRoundSe: 0 });
});
