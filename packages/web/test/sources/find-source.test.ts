import ts from 'typescript';
import { findSource } from '../../src/sources/find-source.ts';
import { matchSource } from '../../src/sources/match-source.ts';
import { folderOfFiles, folderOfHandle, type SourceFolder } from '../../src/sources/source-folder.ts';

const folderOf = (files: Readonly<Record<string, string>>): SourceFolder => ({
  name: 'tidewatch',
  isCut: false,
  files: Object.entries(files).map(([path, text]) => ({ path, read: () => Promise.resolve(text) })),
});
const frame = (file: string, line: number, column = 1) => ({ functionName: 'subscribe', file, line, column });

test.each([
  ['file:///srv/tidewatch/src/alerts.js', ['src/alerts.js']],
  ['org/saltmarsh/Weir.java', ['java/org/saltmarsh/Weir.java']],
  ['Weir.java', ['test/Weir.java', 'java/org/saltmarsh/Weir.java']],
  ['webpack://app/./src/alerts.js?a1b2', ['src/alerts.js']],
  ['C:\\tide\\lib\\alerts.js', ['lib/alerts.js']],
  ['file:///srv/tide%20watch/my%20file.js', ['my file.js']],
  ['nothing.js', []],
  ['', []],
  ['%E0%A4%A', []],
])('%j is found as %j', (file, expected) => {
  const folder = folderOf({
    'src/alerts.js': '',
    'lib/alerts.js': '',
    'java/org/saltmarsh/Weir.java': '',
    'test/Weir.java': '',
    'my file.js': '',
  });
  expect(matchSource(folder, file).map(({ path }) => path)).toEqual(expected);
});

const LINES = Array.from({ length: 60 }, (_, n) => `line ${n + 1}`).join('\n');

test('the lines around a frame are read, and other files that fit are named', async () => {
  const folder = folderOf({ 'a/alerts.js': LINES, 'bb/alerts.js': 'one line' });
  expect(await findSource(folder, frame('alerts.js', 30))).toEqual({
    ok: true,
    found: {
      path: 'a/alerts.js',
      line: 30,
      mappedFrom: '',
      others: ['bb/alerts.js'],
      excerpt: { firstLine: 24, lines: LINES.split('\n').slice(23, 44) },
    },
  });
  expect(await findSource(folder, frame('alerts.js', 1), 'bb/alerts.js')).toMatchObject({
    ok: true,
    found: { path: 'bb/alerts.js', others: ['a/alerts.js'] },
  });
});

test.each([
  ['file:///srv/gone/other.js', 3, /^expected a file like gone\/other\.js in “tidewatch”, and found none/],
  ['alerts.js', 99, /^alerts\.js has no line 99: it may have changed/],
  ['broken.js', 1, /^broken\.js can no longer be read/],
])('of %j line %i it says why there is none', async (file, line, why) => {
  const folder: SourceFolder = {
    ...folderOf({ 'alerts.js': LINES }),
    files: [
      ...folderOf({ 'alerts.js': LINES }).files,
      { path: 'broken.js', read: () => Promise.reject(new Error('gone')) },
    ],
  };
  expect(await findSource(folder, frame(file, line))).toEqual({ ok: false, why: expect.stringMatching(why) as string });
});

describe('a source map', () => {
  const source = [
    'interface Gauge { readonly id: string }',
    '',
    '/** Keeps a gauge. */',
    'export function keep(gauge: Gauge): Gauge[] {',
    '  return [gauge];',
    '}',
    '',
  ].join('\n');
  const compile = (options: ts.CompilerOptions) =>
    ts.transpileModule(source, {
      fileName: 'gauge.ts',
      compilerOptions: { target: ts.ScriptTarget.ES2022, ...options },
    });

  test('beside the file leads to the source in the folder', async () => {
    const { outputText, sourceMapText } = compile({ sourceMap: true, sourceRoot: '../src' });
    const answer = await findSource(
      folderOf({ 'dist/gauge.js': outputText, 'dist/gauge.js.map': sourceMapText!, 'src/gauge.ts': source }),
      frame('file:///app/dist/gauge.js', 2, 17),
    );
    expect(answer).toMatchObject({
      ok: true,
      found: {
        path: 'src/gauge.ts',
        line: 4,
        mappedFrom: 'dist/gauge.js:2',
        excerpt: { firstLine: 1, lines: source.split('\n') },
      },
    });
  });

  test('inside the file brings the source along', async () => {
    const { outputText } = compile({ inlineSourceMap: true, inlineSources: true });
    expect(await findSource(folderOf({ 'gauge.js': outputText }), frame('/app/gauge.js', 2, 17))).toMatchObject({
      ok: true,
      found: { path: 'gauge.ts', line: 4, mappedFrom: 'gauge.js:2' },
    });
  });

  test.each([
    '//# sourceMappingURL=gone.js.map',
    '//# sourceMappingURL=data:application/json;base64,@@@',
    '//# sourceMappingURL=data:application/json,{"version":3}',
  ])('that cannot be read shows the file that ran: %s', async (comment) => {
    expect(await findSource(folderOf({ 'gauge.js': `a\nb\n${comment}` }), frame('gauge.js', 2))).toMatchObject({
      ok: true,
      found: { path: 'gauge.js', line: 2, mappedFrom: '' },
    });
  });
});

test('files of a file field keep their paths; dependencies are left out', async () => {
  const file = (webkitRelativePath: string): File =>
    Object.defineProperty(new File(['x'], 'x.js'), 'webkitRelativePath', { value: webkitRelativePath });
  const folder = folderOfFiles([file('tide/src/a.js'), file('tide/node_modules/k/b.js'), file('tide/c.js')]);
  expect([folder.name, folder.files.map(({ path }) => path), await folder.files[0]!.read()]).toEqual([
    'tide',
    ['src/a.js', 'c.js'],
    'x',
  ]);
});

test("a folder is listed to its depths, but for what holds no code of one's own", async () => {
  type Entry =
    | { readonly kind: 'file'; readonly name: string; readonly getFile: () => Promise<File> }
    | { readonly kind: 'directory'; readonly name: string; readonly values: () => AsyncGenerator<Entry> };
  const file = (name: string): Entry => ({
    kind: 'file',
    name,
    getFile: () => Promise.resolve(new File([name], name)),
  });
  const directory = (name: string, entries: readonly Entry[]): Entry => ({
    kind: 'directory',
    name,
    values: async function* () {
      yield* entries;
    },
  });
  const folder = await folderOfHandle(
    directory('tide', [
      file('a.js'),
      directory('src', [directory('deep', [file('b.js')])]),
      directory('node_modules', [file('k.js')]),
    ]) as unknown as FileSystemDirectoryHandle,
  );
  expect([folder.name, folder.isCut, folder.files.map(({ path }) => path).sort()]).toEqual([
    'tide',
    false,
    ['a.js', 'src/deep/b.js'],
  ]);
  expect(await folder.files[0]!.read()).toBe('a.js');
});
