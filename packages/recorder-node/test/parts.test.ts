import { appendFileSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { CallTree, OWN_PATH, type SamplingNode } from '../src/inspector/call-tree.ts';
import { ControlFile } from '../src/control-file.ts';
import { LineWriter } from '../src/inspector/line-writer.ts';
import { DEFAULT_INTERVAL_BYTES, readSettings } from '../src/settings.ts';
import { SourceExcerpts } from '../src/source-excerpts.ts';
import { scratch } from '../../../test/run-heron.ts';

const linesOf = (file: string): Record<string, unknown>[] =>
  readFileSync(file, 'utf8')
    .trim()
    .split('\n')
    .filter((line) => line !== '')
    .map((line) => JSON.parse(line) as Record<string, unknown>);

describe('settings', () => {
  test.each([undefined, '', 'not json', '{}', '{"out":7}'])('%j does not ask for recording', (text) => {
    expect(readSettings(text)).toBeNull();
  });

  test('what is not said, or makes no sense, has its default', () => {
    expect(readSettings('{"out":"/tmp/a","intervalBytes":-4,"exact":true}')).toMatchObject({
      out: '/tmp/a',
      intervalBytes: DEFAULT_INTERVAL_BYTES,
      exact: true,
      source: true,
      control: '',
    });
  });
});

describe('the line writer', () => {
  test('appends whole lines that carry their heap, behind what others wrote', () => {
    const file = join(scratch(), 'out.ndjson');
    const one = new LineWriter(file, '1.0');
    const two = new LineWriter(file, '1.1');
    one.add({ k: 'mark', t: 1, label: 'a', by: 'page' });
    two.add({ k: 'mark', t: 2, label: 'b', by: 'page' });
    two.flush();
    one.close();
    two.close();
    expect(linesOf(file).map(({ h, label }) => [h, label])).toEqual([
      ['1.1', 'b'],
      ['1.0', 'a'],
    ]);
  });

  test('drops lines rather than growing without bound, and says how many', () => {
    const file = join(scratch(), 'out.ndjson');
    const writer = new LineWriter(file, '1.0');
    const label = 'x'.repeat(1_000_000);
    for (let n = 0; n < 25; n++) writer.add({ k: 'mark', t: n, label, by: 'page' });
    writer.flush();
    writer.close();
    const lines = linesOf(file);
    expect(lines.filter(({ k }) => k === 'mark').length).toBeLessThan(20);
    expect(lines[lines.length - 1]).toMatchObject({
      k: 'note',
      code: 'lines-dropped',
      message: expect.stringMatching(/^\d lines were dropped/) as string,
    });
  });
});

describe('the call tree', () => {
  const node = (
    id: number,
    functionName: string,
    children: SamplingNode[] = [],
    url = 'file:///srv/a.js',
  ): SamplingNode => ({ id, selfSize: 0, children, callFrame: { functionName, url, lineNumber: 3, columnNumber: 0 } });

  function tree(): { calls: CallTree; file: string; writer: LineWriter; told: string[] } {
    const file = join(scratch(), 'tree.ndjson');
    const writer = new LineWriter(file, '1.0');
    const told: string[] = [];
    return {
      file,
      writer,
      told,
      calls: new CallTree({
        writer,
        isOwn: (url) => url.includes('recorder'),
        onFrame: (url, line) => told.push(`${url}:${line}`),
      }),
    };
  }

  test('a path keeps its id though the runtime numbers its nodes anew', () => {
    const { calls, writer, file, told } = tree();
    const first = calls.number(node(1, '(root)', [node(2, 'main', [node(3, 'keep')])]));
    const second = calls.number(node(10, '(root)', [node(30, 'main', [node(20, 'keep'), node(21, 'drop')])]));
    writer.close();
    expect([second.get(30), second.get(20)]).toEqual([first.get(2), first.get(3)]);
    expect(first.get(1)).toBe(-1);
    expect(linesOf(file).filter(({ k }) => k === 'paths')).toMatchObject([
      { first: 0, parent: [-1, 0] },
      { first: 2, parent: [0] },
    ]);
    expect(told).toEqual(['file:///srv/a.js:4', 'file:///srv/a.js:4', 'file:///srv/a.js:4']);
  });

  test('what the recorder does itself, and all it calls, is no path', () => {
    const { calls, writer, file } = tree();
    const ids = calls.number(node(1, '(root)', [node(2, 'tick', [node(3, 'write')], 'file:///x/recorder/tick.js')]));
    writer.close();
    expect([ids.get(2), ids.get(3)]).toEqual([OWN_PATH, OWN_PATH]);
    expect(readFileSync(file, 'utf8')).toBe('');
  });
});

describe('commands', () => {
  test('are taken once, whole lines only, and nonsense is passed over', () => {
    const file = join(scratch(), 'control');
    writeFileSync(file, '{"do":"mark","label":"high water","epochMs":5}\nnonsense\n{"do":"expl');
    const control = new ControlFile(file);
    expect(control.take()).toEqual([{ do: 'mark', label: 'high water', epochMs: 5 }]);
    expect(control.take()).toEqual([]);
    appendFileSync(file, 'ode"}\n{"do":"births"}\n{"do":"mark"}\n{"do":"collect","x":1}\n');
    expect(control.take()).toEqual([{ do: 'births', on: true }, { do: 'collect' }]);
    appendFileSync(file, '{"do":"births","on":false}\n{"do":"startOver"}\n');
    expect(control.take()).toEqual([{ do: 'births', on: false }, { do: 'startOver' }]);
  });

  test('a file that is not there has none', () => {
    expect(new ControlFile('/nowhere/control').take()).toEqual([]);
    expect(new ControlFile('').take()).toEqual([]);
  });
});

test('excerpts are the lines around a function of own files, told for each place, never of dependencies', () => {
  const directory = scratch();
  const source = join(directory, 'weir.js');
  writeFileSync(
    source,
    Array.from({ length: 30 }, (_, n) => `line ${n + 1}${n === 9 ? 'x'.repeat(400) : ''}`).join('\n'),
  );
  const file = join(directory, 'out.ndjson');
  const writer = new LineWriter(file, '1.0');
  const excerpts = new SourceExcerpts(writer);
  excerpts.tell(pathToFileURL(source).href, 9);
  for (const url of ['file:///srv/node_modules/kit/x.js', 'node:timers', 'file:///nowhere/a.js', ''])
    excerpts.tell(url, 1);
  excerpts.tell(pathToFileURL(source).href, 99);
  writer.close();
  const lines = linesOf(file);
  expect(lines).toHaveLength(1);
  expect(lines[0]).toMatchObject({ k: 'src', line: 9, first: 7 });
  expect((lines[0]!['text'] as string[]).map((text) => text.slice(0, 7))).toEqual([
    'line 7',
    'line 8',
    'line 9',
    'line 10',
    'line 11',
    'line 12',
    'line 13',
    'line 14',
    'line 15',
    'line 16',
    'line 17',
    'line 18',
    'line 19',
  ]);
  expect(Math.max(...(lines[0]!['text'] as string[]).map((text) => text.length))).toBe(160);
});
