import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import ts from 'typescript';
import { SourceExcerpts } from '../src/source-excerpts.ts';
import { LineWriter } from '../src/inspector/line-writer.ts';
import { SourcePlaces } from '../src/source-places.ts';
import { readRecording, runHeron, scratch } from '../../../test/run-heron.ts';

const SOURCE = `interface Reading {
  readonly gauge: string;
}

type Readings = readonly Reading[];

const kept: Readings[] = [];

function takeReadings(count: number): Readings {
  const readings = Array.from({ length: count }, (_, n) => ({ gauge: \`weir \${n}\` }));
  kept.push(readings);
  return readings;
}

const timer = setInterval(() => takeReadings(400), 2);
setTimeout(() => clearInterval(timer), 4000);
`;

/** A program compiled into `dist/`, its source in `src/`. Answers the address of both files. */
function compiled(options: ts.CompilerOptions): { js: string; source: string; directory: string } {
  const directory = scratch();
  mkdirSync(join(directory, 'src'));
  mkdirSync(join(directory, 'dist'));
  writeFileSync(join(directory, 'src', 'gauge.ts'), SOURCE);
  const { outputText, sourceMapText } = ts.transpileModule(SOURCE, {
    fileName: 'gauge.ts',
    compilerOptions: {
      target: ts.ScriptTarget.ES2022,
      module: ts.ModuleKind.CommonJS,
      ...options,
      sourceRoot: '../src',
    },
  });
  writeFileSync(join(directory, 'dist', 'gauge.js'), outputText);
  if (sourceMapText !== undefined) writeFileSync(join(directory, 'dist', 'gauge.js.map'), sourceMapText);
  return {
    js: pathToFileURL(join(directory, 'dist', 'gauge.js')).href,
    source: pathToFileURL(join(directory, 'src', 'gauge.ts')).href,
    directory,
  };
}

const lineOf = (url: string, text: string): number =>
  readFileSync(new URL(url), 'utf8')
    .split('\n')
    .findIndex((line) => line.includes(text)) + 1;

test.each([
  ['beside the file', { sourceMap: true }],
  ['inside the file', { inlineSourceMap: true, inlineSources: true }],
])('a place in compiled code is found in its source by a map %s', (_, options) => {
  const { js, source } = compiled(options);
  const places = new SourcePlaces();
  const jsLine = lineOf(js, 'function takeReadings');
  expect(jsLine).not.toBe(9);
  expect(places.hasMapped).toBe(false);
  expect(places.of(js, jsLine, 22)).toMatchObject({ url: source, line: 9 });
  expect(places.hasMapped).toBe(true);
  expect(places.carried(source)).toBe('inlineSources' in options ? SOURCE : undefined);
});

test('the source is told though only the map has it', () => {
  const { js, source, directory } = compiled({ inlineSourceMap: true, inlineSources: true });
  rmSync(join(directory, 'src'), { recursive: true });
  const places = new SourcePlaces();
  const { url, line } = places.of(js, lineOf(js, 'function takeReadings'), 22);
  const out = join(scratch(), 'out.ndjson');
  const writer = new LineWriter(out, '1.0');
  new SourceExcerpts(writer, places.carried).tell(url, line);
  writer.close();
  expect(JSON.parse(readFileSync(out, 'utf8'))).toMatchObject({
    file: source,
    line: 9,
    text: expect.arrayContaining(['function takeReadings(count: number): Readings {']) as string[],
  });
});

test.each([
  ['no map', 'let a;\n'],
  ['a map that is not there', 'let a;\n//# sourceMappingURL=gone.map\n'],
  ['a map that is none', 'let a;\n//# sourceMappingURL=data:application/json;base64,AAAA\n'],
  ['a map elsewhere', 'let a;\n//# sourceMappingURL=https://example.org/x.map\n'],
  ['a map of nothing', 'let a;\n//# sourceMappingURL=data:application/json,{}\n'],
])('with %s a place stays what it is', (_, text) => {
  const file = join(scratch(), 'weir.js');
  writeFileSync(file, text);
  const url = pathToFileURL(file).href;
  expect(new SourcePlaces().of(url, 1, 5)).toEqual({ url, line: 1, column: 5 });
});

test.each(['node:internal/timers', 'file:///srv/node_modules/kit/a.js', 'file:///nowhere/a.js', ''])(
  '%j is not looked into',
  (url) => {
    const places = new SourcePlaces();
    expect([places.of(url, 3, 4), places.hasMapped]).toEqual([{ url, line: 3, column: 4 }, false]);
  },
);

test('a compiled program that is recorded shows the lines of its source', async () => {
  const { directory, source } = compiled({ sourceMap: true });
  const out = join(directory, 'out.ndjson');
  expect(
    (
      await runHeron([
        'record',
        '--out',
        out,
        '--births',
        '1000',
        '--poll',
        '500',
        '--interval',
        '8192',
        '--',
        'node',
        join(directory, 'dist', 'gauge.js'),
      ])
    ).code,
  ).toBe(0);
  const recording = readRecording(out);
  const { frames } = recording.tables;
  const places = Array.from(
    { length: frames.length },
    (_, id) =>
      `${recording.strings.text(frames.col.functionId[id]!)} ${recording.strings.text(frames.col.fileId[id]!)}:${frames.col.line[id]}`,
  );
  expect(places).toContain(`takeReadings ${source}:9`);
  expect(recording.excerpts.get(`${source}:9`)?.lines).toContain('function takeReadings(count: number): Readings {');
  expect(recording.notes.filter(({ code }) => code === 'source-maps')).toHaveLength(1);
});
