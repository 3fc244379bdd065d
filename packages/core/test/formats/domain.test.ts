import { analysisReport } from '../../src/measures/analysis-report.ts';
import { InputReader } from '../../src/formats/input-reader.ts';

function read(text: string) {
  const reader = new InputReader();
  reader.write(new TextEncoder().encode(text));
  const result = reader.end();
  if (!result.ok) throw new Error(result.message);
  return result.runs[result.runs.length - 1]!;
}

const HEAD = '[0.006s][info][gc] Using Serial\n';
const young = (stamp: string, id: number, sizes = '6M->2M(64M)', took = '2.500ms'): string =>
  `[${stamp}s][info][gc] GC(${id}) Pause Young (Allocation Failure) ${sizes} ${took}\n`;
const GOOD = `${HEAD}${young('1.000', 0)}${young('2.000', 1)}${young('3.000', 2)}`;

test.each([
  ['a size', young('4.000', 3, '999999999999999M->2M(64M)'), 'absurd-size', 4],
  ['a capacity', young('4.000', 3, '6M->2M(18446744073709551615M)'), 'absurd-size', 4],
  ['a time', young('99999999999999.000', 3), 'absurd-time', 3],
  ['a pause', young('4.000', 3, '6M->2M(64M)', '281474976710656.000ms'), 'cut-line', 3],
])('%s that no program has is an issue with its line, and is not used', (_, line, code, collections) => {
  const recording = read(`${GOOD}${line}${young('5.000', 4)}`);
  const report = analysisReport(recording);
  expect(recording.issues.byCode[code]).toBe(1);
  expect(recording.issues.first.find((issue) => issue.code === code)!.line).toBe(5);
  expect([report.durationMs, report.heap.peakUsedBytes! <= 64 * 2 ** 20, report.collections.count]).toEqual([
    5000,
    true,
    collections + 1,
  ]);
});

test('a label that is called like a member of every object is a label like any other', () => {
  const hello =
    '{"k":"hello","schema":"brisk-heron/stream@1","h":"1","epochMs":1800000000000,"program":"weirs","runtime":"r"}\n';
  const pause = (label: string, t: number): string =>
    `{"k":"pause","h":"1","t":${t},"ms":5,"scope":"young","label":"${label}"}\n`;
  const report = analysisReport(
    read(
      `${hello}${pause('__proto__', 1)}${pause('constructor', 20)}${pause('toString', 40)}${pause('__proto__', 60)}`,
    ),
  );
  expect(JSON.stringify(report.pauses.byName)).toBe(
    '{"__proto__":{"count":2,"totalMs":10,"maxMs":5},"constructor":{"count":1,"totalMs":5,"maxMs":5},"toString":{"count":1,"totalMs":5,"maxMs":5}}',
  );
  expect(({} as { count?: number }).count).toBeUndefined();
});

test.each([
  ['sizes', '{"k":"size","h":"1","t":5,"used":99999999999999999}'],
  ['times', '{"k":"mark","h":"1","t":1e15,"label":"x","by":"program"}'],
  ['pauses', '{"k":"gc","h":"1","t":5,"ms":1e12,"scope":"whole","label":"x"}'],
])('lines of a stream with absurd %s are left out', (_, line) => {
  const hello =
    '{"k":"hello","schema":"brisk-heron/stream@1","h":"1","epochMs":1800000000000,"program":"weirs","runtime":"r"}\n';
  const recording = read(`${hello}${line}\n{"k":"mark","h":"1","t":9,"label":"x","by":"program"}\n`);
  expect([recording.issues.byCode, recording.durationMs]).toEqual([{ 'not-a-stream-line': 1 }, 9]);
});
