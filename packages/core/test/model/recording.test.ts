import { NONE } from '../../src/base/ids.ts';
import { IssueLog, snippet } from '../../src/base/issues.ts';
import { StringTable } from '../../src/base/string-table.ts';
import { contains, overlapMs, spanLengthMs } from '../../src/base/span.ts';
import { fileName, pathFrames, siteLabel } from '../../src/model/call-path.ts';
import { chargeGroups } from '../../src/model/charge.ts';
import { isOwnFile, nearestOwnPaths } from '../../src/model/own-frame.ts';
import { Recording } from '../../src/model/recording.ts';

function pathOf(recording: Recording, frames: readonly (readonly [string, string])[]): number {
  let path: number = NONE;
  for (const [name, file] of frames) path = recording.internPath(path, recording.internFrame(name, file, 1, 1));
  return path;
}

describe('call paths', () => {
  test('the same path is one row, however often it is met', () => {
    const recording = new Recording('recording');
    const first = pathOf(recording, [
      ['main', '/srv/a.js'],
      ['keep', '/srv/b.js'],
    ]);
    expect(
      pathOf(recording, [
        ['main', '/srv/a.js'],
        ['keep', '/srv/b.js'],
      ]),
    ).toBe(first);
    expect(
      pathOf(recording, [
        ['keep', '/srv/b.js'],
        ['main', '/srv/a.js'],
      ]),
    ).not.toBe(first);
    expect(recording.tables.frames.length).toBe(2);
    expect(recording.tables.paths.length).toBe(4);
  });

  test('parents come before their children', () => {
    const recording = new Recording('recording');
    for (let n = 0; n < 50; n++)
      pathOf(recording, [
        ['a', ''],
        [`b${n % 7}`, ''],
        [`c${n % 5}`, ''],
      ]);
    const { parentId } = recording.tables.paths.col;
    for (let path = 0; path < recording.tables.paths.length; path++)
      expect(parentId[path] === NONE || parentId[path]! < path).toBe(true);
  });

  test('frames run from the entry to the allocation', () => {
    const recording = new Recording('recording');
    const path = pathOf(recording, [
      ['main', 'file:///srv/tide.js'],
      ['', ''],
    ]);
    expect(pathFrames(recording, path).map(siteLabel)).toEqual(['main tide.js:1', '(anonymous)']);
    expect(pathFrames(recording, NONE)).toEqual([]);
  });

  test.each([
    ['file:///srv/app/alerts.ts', 'alerts.ts'],
    ['C:\\srv\\app.js', 'app.js'],
    ['node:timers', 'node:timers'],
    ['', ''],
  ])('the name of %j is %j', (file, name) => {
    expect(fileName(file)).toBe(name);
  });
});

describe('own frames', () => {
  test.each([
    ['file:///srv/app.js', true],
    ['/srv/src/Tide.java', true],
    ['file:///srv/node_modules/kit/x.js', false],
    ['node:internal/timers', false],
    ['', false],
    ['java.util.HashMap', false],
    ['wasm://wasm/1', false],
  ])('%j is own: %s', (file, own) => {
    expect(isOwnFile(file)).toBe(own);
  });

  test.each([
    [['src/'], '/srv/tide/src/alerts.js', true],
    [['src/'], '/srv/tide/lib/alerts.js', false],
    [['!vendor/'], '/srv/tide/vendor/x.js', false],
    [['!vendor/'], '/srv/tide/x.js', true],
    [['org.saltmarsh'], 'org/saltmarsh/Gate.java', true],
    [['org.saltmarsh'], 'org/saltmarshes/Gate.java', false],
    [['**/packages/*/src/**'], 'file:///srv/packages/tide/src/a/b.js', true],
    [['**/packages/*/src/**'], 'file:///srv/packages/a/b/src/c.js', false],
    [['src/', '!src/generated/'], '/srv/src/generated/x.js', false],
    [['*.java'], 'Weirkeeper.java', true],
    [['node:fs'], 'node:fs', true],
    [['a+b/'], '/srv/a+b/x.js', true],
  ])('by the rules %j, %j is own: %s', (rules, file, own) => {
    expect(isOwnFile(file, rules)).toBe(own);
  });

  test('rules that are given go before what the source said', () => {
    const recording = new Recording('recording');
    recording.ownPrefixes.push('org/saltmarsh/');
    expect(recording.ownRules).toEqual(['org/saltmarsh/']);
    recording.givenOwnRules = ['net/'];
    expect(recording.ownRules).toEqual(['net/']);
  });

  test('an allocation is charged to the nearest own frame towards the entry, or to itself where there is none', () => {
    const recording = new Recording('recording');
    const own = pathOf(recording, [['handle', '/srv/a.js']]);
    const inLibrary = pathOf(recording, [
      ['handle', '/srv/a.js'],
      ['push', 'node:x'],
      ['grow', 'node:y'],
    ]);
    const foreign = pathOf(recording, [['tick', 'node:timers']]);
    const nearest = nearestOwnPaths(recording);
    expect([nearest[own], nearest[inLibrary], nearest[foreign]]).toEqual([own, own, foreign]);
    for (const path of [own, inLibrary]) recording.internOrigin(path, NONE, NONE, 0);
    const { groupOf, keys } = chargeGroups(recording, 'ownFrame');
    expect([...groupOf, keys[0]]).toEqual([0, 0, recording.tables.paths.col.frameId[own]]);
    expect([...chargeGroups(recording, 'site').groupOf]).toEqual([0, 1]);
  });
});

test('a string is kept once and found by its id', () => {
  const strings = new StringTable();
  expect([strings.intern('tide'), strings.intern('weir'), strings.intern('tide')]).toEqual([0, 1, 0]);
  expect([strings.text(1), strings.text(NONE), strings.length]).toEqual(['weir', '', 2]);
});

test('the lowest limit of the heaps counts, and none is NaN', () => {
  const recording = new Recording('recording');
  expect(recording.limitBytes()).toBeNaN();
  recording.addHeap('main');
  expect(recording.limitBytes()).toBeNaN();
  recording.heaps[recording.addHeap('worker')]!.limitBytes = 5;
  recording.heaps[0]!.limitBytes = 9;
  expect(recording.limitBytes()).toBe(5);
});

test('the recording reaches the last known time and ignores what is none', () => {
  const recording = new Recording('recording');
  for (const t of [5, NaN, 3]) recording.reach(t);
  expect(recording.durationMs).toBe(5);
});

test('issues are all counted, the first fifty kept whole', () => {
  const log = new IssueLog();
  for (let line = 1; line <= 120; line++) log.add({ code: line % 2 ? 'a' : 'b', line, byteOffset: 0, message: '' });
  expect([log.count, log.byCode, log.first.length]).toEqual([120, { a: 60, b: 60 }, 50]);
});

test('a snippet is short and harmless', () => {
  expect(snippet('a\u0000b\u001b[31m')).toBe('"a·b·[31m"');
  expect(snippet('x'.repeat(500))).toHaveLength(82);
});

test('spans are half-open', () => {
  const span = { fromMs: 10, toMs: 20 };
  expect([
    contains(span, 10),
    contains(span, 20),
    spanLengthMs(span),
    overlapMs(span, 5, 12),
    overlapMs(span, 30, 40),
  ]).toEqual([true, false, 10, 2, 0]);
});
