import { analysisReport } from '../../src/measures/analysis-report.ts';
import { askMembers } from '../../src/measures/measure.ts';
import { askMeasure, MEASURES, measureOf, type MeasureName } from '../../src/measures/registry.ts';
import { keyText, CHARGES, chargeGroups } from '../../src/model/charge.ts';
import { Study } from '../../src/study/study.ts';
import { fixed, leak, log, weirs } from './samples.ts';

const study = new Study({ runs: [leak] });
/** What has to be said where a measure has no default. */
const GIVEN: Partial<Record<MeasureName, object>> = {
  collection: { row: 0 },
  key: { key: 'nobody' },
  completion: { text: 'ty', caret: 2 },
};
const NAMES = Object.keys(MEASURES) as MeasureName[];

test.each(NAMES)('%s answers of any source, by its own name, and its table can be written', (name) => {
  expect(MEASURES[name].name).toBe(name);
  for (const recording of [leak, log, weirs]) {
    const answer = askMeasure(new Study({ runs: [recording] }), {}, name, GIVEN[name] ?? {});
    expect(() => structuredClone(answer)).not.toThrow();
    const { table } = measureOf(name)!;
    if (table === null) continue;
    for (const row of table.rows(answer)) for (const { cell } of table.columns) expect(cell(row)).not.toBeUndefined();
  }
});

test.each(NAMES)('%s says what may be asked of it, and takes nothing else', (name) => {
  for (const { about } of askMembers(MEASURES[name].ask)) expect(typeof about).toBe('string');
  expect(() => askMeasure(study, {}, name, { ...GIVEN[name], goalms: 5 })).toThrow(/cannot be asked so.*goalms/);
});

test('what is asked wrongly is told in words', () => {
  expect(() => askMeasure(study, {}, 'grwoth', {})).toThrow(/expected a measure of overview, .*found “grwoth”/);
  expect(() => askMeasure(study, {}, 'toString', {})).toThrow(/expected a measure of/);
  expect(() => askMeasure(study, { run: 4 }, 'growth', {})).toThrow('expected a run from 1 to 1, found 5');
  expect(() => askMeasure(study, { run: -1 }, 'growth', {})).toThrow(/the side asked about is not one: run/);
  expect(() => askMeasure(study, { heaps: [7] }, 'growth', {})).toThrow('expected heaps up to number 0, found 7');
  const backwards = { kind: 'span', fromMs: 5, toMs: 5 } as const;
  expect(() => askMeasure(study, { extent: backwards }, 'growth', {})).toThrow(/a span that ends after it begins/);
  const round = { kind: 'round', label: 'reconnect', number: 99 } as const;
  expect(() => askMeasure(study, { extent: round }, 'growth', {})).toThrow(/a round of “reconnect” from 1 to \d/);
});

test('members of the report that a measure names are there, of one sample or another', () => {
  const told = new Set([leak, fixed, log, weirs].flatMap((each) => Object.keys(analysisReport(each, [each, each]))));
  // Only of input that is cut, thinned or silent, of programs that ended, and of collectors that make threads wait.
  const seldom = ['thinned', 'missing', 'silences', 'endOfWorkMs', 'lost', 'stalls', 'safepoints', 'samples', 'notes'];
  for (const name of NAMES)
    for (const member of MEASURES[name].report) expect([member, ...told, ...seldom].slice(1)).toContain(member);
});

test("a round of a mark is a span, a moment is asked of a side as of the measure's own time", () => {
  const times = Array.from({ length: leak.tables.marks.length }, (_, row) => leak.tables.marks.col.tMs[row]!);
  const ask = (side: object, name: MeasureName, given = {}): object =>
    askMeasure(study, side, name, given) as { span: object };
  expect(ask({ extent: { kind: 'round', label: 'reconnect', number: 2 } }, 'sites')).toEqual(
    ask({ extent: { kind: 'span', fromMs: times[1], toMs: times[2] } }, 'sites'),
  );
  expect(ask({ extent: { kind: 'moment', tMs: 40_000 } }, 'moment')).toEqual(ask({}, 'moment', { tMs: 40_000 }));
});

test.each(CHARGES)('keys charged to %s have words of their own each', (charge) => {
  for (const recording of [leak, weirs]) {
    const strings = recording.strings.length;
    const { keys } = chargeGroups(recording, charge);
    const words = Array.from(keys, (key) => keyText(recording, charge, key));
    expect(new Set(words).size).toBe(words.length);
    // A question changes nothing of the model.
    expect(recording.strings.length).toBe(strings);
  }
});
