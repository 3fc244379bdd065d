import type { PathChangesAnswer } from '../../src/measures/path-changes.ts';
import { askPair } from '../../src/measures/registry.ts';
import { Recording } from '../../src/model/recording.ts';
import { NONE } from '../../src/base/ids.ts';
import { JVM } from '../../src/runtimes/jvm.ts';
import { Study } from '../../src/study/study.ts';
import { fixed, leak, weirs } from '../measures/samples.ts';
import { followObjects } from '../build-recording.ts';

type Way = readonly string[];

/** A recording whose paths allocate so many bytes; every object is seen. */
function recordingOf(ways: readonly (readonly [Way, number])[], line = 1): Recording {
  const recording = new Recording('recording');
  recording.addHeap('main', JVM);
  followObjects(recording);
  const { objects } = recording.tables;
  for (const [way, bytes] of ways) {
    const path = way.reduce(
      (parent, name) => recording.internPath(parent, recording.internFrame(name, `/srv/${name}.js`, line, 1)),
      NONE,
    );
    const row = objects.addRow();
    objects.col.sizeBytes[row] = bytes;
    objects.col.probability[row] = 1;
    objects.col.originId[row] = recording.internOrigin(path, NONE, NONE, 0);
  }
  recording.reach(1000);
  return recording;
}

const compared = (a: Recording, b: Recording, ask: object = {}): PathChangesAnswer =>
  askPair([new Study({ runs: [a] }), {}], [new Study({ runs: [b] }), {}], 'pathChanges', ask) as PathChangesAnswer;
const told = (answer: PathChangesAnswer, id = ''): unknown[] =>
  answer.children
    .get(id)!
    .map(({ words, a, b, difference }) => [
      words.map((word) => (word.kind === 'frame' ? word.name : word.of)).join(' '),
      a,
      b,
      difference,
    ]);

const BEFORE = recordingOf([
  [['main', 'read', 'parse'], 100],
  [['main', 'read', 'trim'], 10],
  [['main', 'draw'], 50],
]);
// The same program some lines further on: one path gone, one new, one grown.
const AFTER = recordingOf(
  [
    [['main', 'read', 'parse'], 400],
    [['main', 'send'], 30],
    [['main', 'draw'], 50],
  ],
  7,
);

test('paths of the same frames are one path, whatever their lines are now', () => {
  const answer = compared(BEFORE, AFTER, { open: [''] });
  expect(answer.all).toEqual([160, 480]);
  expect(told(answer)).toEqual([['main', 160, 480, 320]]);
  const main = answer.children.get('')![0]!.id;
  expect(told(compared(BEFORE, AFTER, { open: ['', main] }), main)).toEqual([
    ['read', 110, 400, 290],
    ['draw', 50, 50, 0],
    ['send', 0, 30, 30],
  ]);
});

test('the way of the greatest increase is opened, and from the allocation it is the other way up', () => {
  const down = compared(BEFORE, AFTER, { growthFrom: '' });
  const last = down.open.at(-1)!;
  expect(told(down, last)[0]).toEqual(['parse', 100, 400, 300]);
  const up = compared(BEFORE, AFTER, { direction: 'allocation', growthFrom: '' });
  expect(told(up)[0]).toEqual(['parse read main', 100, 400, 300]);
  expect(
    up.children
      .get('')!
      .map(({ difference }) => difference)
      .reduce((sum, each) => sum + each, 0),
  ).toBe(320);
});

test('a picture is as wide as the larger sides, and each cell has both', () => {
  const { cells } = compared(BEFORE, AFTER, { focus: '' });
  const of = (name: string) => cells.find(({ text }) => text === name)!;
  // 400 of parse, 10 of trim, 50 of draw and 30 of send.
  expect(of('main').to - of('main').from).toBeCloseTo(1, 9);
  expect(of('draw').to - of('draw').from).toBeCloseTo(50 / 490, 9);
  expect([of('send').a, of('send').b, of('trim').b]).toEqual([0, 30, 0]);
});

test('every node of a recording beside itself is the same, and sums are those of one side', () => {
  for (const recording of [leak, weirs]) {
    const answer = compared(recording, recording, { growthFrom: null, focus: '' });
    for (const { difference } of answer.cells) expect(difference).toBe(0);
    expect(answer.cells.length).toBeGreaterThan(10);
  }
  const one = compared(leak, fixed, { fate: 'kept', focus: '' });
  const turned = compared(fixed, leak, { fate: 'kept', focus: '' });
  expect(turned.all).toEqual([one.all[1], one.all[0]]);
  expect(one.perSecond).toBe(false);
});
