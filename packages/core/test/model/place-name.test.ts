import { NONE } from '../../src/base/ids.ts';
import { placeName, siteLabel } from '../../src/model/call-path.ts';
import { nearestOwnPaths } from '../../src/model/own-frame.ts';
import { Recording } from '../../src/model/recording.ts';
import { JVM } from '../../src/runtimes/jvm.ts';
import { V8 } from '../../src/runtimes/v8.ts';

test.each([
  ['file:///srv/app/alerts.ts', 'alerts.ts'],
  ['/srv/node_modules/reed-list/lib/index.js', 'reed-list/index.js'],
  ['file:///srv/node_modules/@weir/gate/a.mjs', '@weir/gate/a.mjs'],
  ['/srv/node_modules/a/node_modules/b/c.js', 'b/c.js'],
  ['node:timers', 'node:timers'],
  ['', ''],
])('the file %j is named %j beside a function', (file, name) => {
  expect(placeName(file)).toBe(name);
});

test('a site in a dependency carries its package', () => {
  expect(siteLabel({ functionName: 'add', file: '/srv/node_modules/reed-list/index.js', line: 5, column: 1 })).toBe(
    'add reed-list/index.js:5',
  );
});

test("where no frame is own, the nearest of a dependency is named rather than the runtime's", () => {
  const recording = new Recording('recording');
  const path = (parent: number, name: string, file: string): number =>
    recording.internPath(parent, recording.internFrame(name, file, 1, 1));
  const timer = path(NONE, 'listOnTimeout', 'node:timers');
  const module = path(timer, 'traverse', '/srv/node_modules/reed-list/index.js');
  const push = path(module, 'push', '');
  const bare = path(timer, 'push', '');
  const own = path(NONE, 'main', '/srv/app.js');
  const ofOwn = path(path(own, 'traverse', '/srv/node_modules/reed-list/index.js'), 'push', '');
  const nearest = nearestOwnPaths(recording);
  expect([nearest[push], nearest[bare], nearest[ofOwn], nearest[timer]]).toEqual([module, bare, own, timer]);
});

describe('a script that an engine in a JVM runs', () => {
  const nearestTo = (script: string, rules: readonly string[], traits = JVM): string => {
    const recording = new Recording('recording');
    recording.addHeap('main', traits);
    recording.ownPrefixes.push(...rules);
    const path = (parent: number, file: string): number =>
      recording.internPath(parent, recording.internFrame('f', file, 1, 1));
    const engine = path(NONE, 'org/python/util/jython.java');
    const rows = path(path(engine, script), 'org/python/core/PyDictionary.java');
    const bytes = path(rows, 'java/util/HashMap.java');
    const own = nearestOwnPaths(recording)[bytes]!;
    const { paths, frames } = recording.tables;
    return recording.strings.text(frames.col.fileId[paths.col.frameId[own]!]!);
  };

  test.each([
    ['org/python/pycode/tide.py'],
    ['org/mozilla/javascript/gen/tide_js_1.class'],
    ['jdk/nashorn/internal/scripts/Script$1.class'],
    ['tide.groovy'],
  ])('%j is own rather than the engine', (script) => {
    expect(nearestTo(script, [])).toBe(script);
    expect(nearestTo(script, ['!org/python/'])).toBe(script);
  });

  test('gives way to what is named as own', () => {
    expect(nearestTo('tide.py', ['org/python/core/'])).toBe('org/python/core/PyDictionary.java');
  });

  test('is neither the library of a language nor a file of another runtime', () => {
    expect(nearestTo('clojure/core.clj', [])).toBe('org/python/core/PyDictionary.java');
    expect(nearestTo('tide.js', [], V8)).toBe('org/python/core/PyDictionary.java');
  });
});
