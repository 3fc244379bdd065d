import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { builtinModules } from 'node:module';
import { join, relative } from 'node:path';

const ROOT = join(__dirname, '..');
const PACKAGES = ['core', 'server', 'cli', 'web', 'recorder-node'];
/** Loaded by a page, a build or a command, and by nobody's import. */
const ENTRIES = ['vite.config.ts', 'main.ts', 'recording-worker.ts', 'register.ts', 'attach.ts'];
/** Written for the formats of others, which read them by name. */
const OF_OTHERS = new Set(['default']);

function filesUnder(directory: string, ending: RegExp): string[] {
  if (!existsSync(directory)) return [];
  return readdirSync(directory, { withFileTypes: true }).flatMap((entry) => {
    const path = join(directory, entry.name);
    if (entry.name === 'node_modules' || entry.name === 'dist') return [];
    if (entry.isDirectory()) return filesUnder(path, ending);
    return ending.test(entry.name) ? [path] : [];
  });
}

const sources = PACKAGES.flatMap((name) => filesUnder(join(ROOT, 'packages', name, 'src'), /\.(?:ts|vue)$/));
const others = [
  ...[...PACKAGES, 'recorder-jvm'].flatMap((name) =>
    ['test', 'bench'].flatMap((part) => filesUnder(join(ROOT, 'packages', name, part), /\.(?:ts|mjs)$/)),
  ),
  ...['test', 'scripts'].flatMap((part) => filesUnder(join(ROOT, part), /\.(?:ts|mjs)$/)),
];
const texts = new Map([...sources, ...others].map((file) => [file, readFileSync(file, 'utf8')]));

interface Export {
  readonly file: string;
  readonly name: string;
  readonly isDocumented: boolean;
  readonly isType: boolean;
}

const EXPORT = /^export (?:async )?(?:abstract )?(const|function\*?|class|interface|type|enum) (\w+)/gm;

function exportsOf(file: string): Export[] {
  const text = texts.get(file)!;
  return [...text.matchAll(EXPORT)].map((found) => ({
    file: relative(ROOT, file),
    name: found[2]!,
    isType: found[1] === 'interface' || found[1] === 'type',
    isDocumented: /\*\/\s*(?:\/\/ eslint-[^\n]*\n)*$/.test(text.slice(0, found.index)),
  }));
}

const exported = sources.filter((file) => !file.endsWith('index.ts')).flatMap(exportsOf);

test('every export says what it is', () => {
  // A type that is the values of a constant above it is told there.
  const isTold = ({ file, name, isDocumented }: Export): boolean =>
    isDocumented ||
    new RegExp(`^export type ${name} = (?:\\(typeof|keyof typeof|typeof|z\\.)`, 'm').test(texts.get(join(ROOT, file))!);
  // Of overloads the first tells.
  const first = exported.filter(
    ({ file, name }, at) => exported.findIndex((other) => other.file === file && other.name === name) === at,
  );
  const untold = first.filter((each) => !isTold(each)).map(({ file, name }) => `${file}: ${name}`);
  expect(untold).toEqual([]);
  expect(exported.length).toBeGreaterThan(500);
});

// Types are there for what they describe.
test('every value that is exported is used by another file', () => {
  const words = new Map([...texts].map(([file, text]) => [relative(ROOT, file), new Set(text.match(/\w+/g))]));
  const isUsed = ({ file, name }: Export): boolean =>
    OF_OTHERS.has(name) ||
    [...words].some(([other, has]) => other !== file && !other.endsWith('/index.ts') && has.has(name));
  const unused = exported.filter(
    (each) => !each.isType && !ENTRIES.some((entry) => each.file.endsWith(entry)) && !isUsed(each),
  );
  expect(unused.map(({ file, name }) => `${file}: ${name}`)).toEqual([]);
});

interface Manifest {
  readonly dependencies?: Readonly<Record<string, string>>;
  readonly devDependencies?: Readonly<Record<string, string>>;
}

const manifestOf = (directory: string): Manifest =>
  JSON.parse(readFileSync(join(ROOT, directory, 'package.json'), 'utf8')) as Manifest;

function packagesIn(text: string): string[] {
  const targets = [
    ...text.matchAll(
      /(?:^import |^\} from |^import [^;]*? from |^export [^;]*? from |import\(|require\()'([^'.][^']*)'/gm,
    ),
  ].map((found) => found[1]!);
  return targets
    .map((target) => /^(?:@[^/]+\/)?[^/]+/.exec(target)![0])
    .filter((name) => !name.startsWith('node:') && !builtinModules.includes(name) && !name.startsWith('${'));
}

test.each(PACKAGES)('%s declares what it imports, imports what it declares, and pins it', (name) => {
  const directory = join('packages', name);
  const { dependencies = {}, devDependencies = {} } = manifestOf(directory);
  const used = new Set(
    sources
      .filter((file) => file.startsWith(join(ROOT, directory, 'src')))
      .flatMap((file) => packagesIn(texts.get(file)!)),
  );
  const declared = { ...dependencies, ...devDependencies };
  const isOwn = (each: string): boolean => each === `@brisk-heron/${name}`;
  expect([...used].filter((each) => !(each in declared) && !isOwn(each))).toEqual([]);
  expect(Object.keys(dependencies).filter((each) => !used.has(each) && !isAsset(name, each))).toEqual([]);
  for (const version of Object.values(declared)) expect(version).toMatch(/^\d+\.\d+\.\d+$/);
});

// Style sheets and fonts are imported by their path, and types by the compiler.
function isAsset(name: string, dependency: string): boolean {
  return texts.get(join(ROOT, 'packages', name, 'src', 'main.ts'))?.includes(`'${dependency}/`) === true;
}

test('templates hold short expressions, the rest stands in the script', () => {
  const MOST = 120;
  const long = sources
    .filter((file) => file.endsWith('.vue'))
    .flatMap((file) => {
      const text = texts.get(file)!;
      const template = text.slice(text.indexOf('<template>'), text.lastIndexOf('</template>'));
      return [...template.matchAll(/\{\{(.*?)\}\}|[:@#][\w.:[\]`-]+="([^"]*)"|v-[\w:-]+="([^"]*)"/gs)]
        .map((found) => (found[1] ?? found[2] ?? found[3] ?? '').replace(/\s+/g, ' ').trim())
        .filter((expression) => expression.length > MOST)
        .map((expression) => `${relative(ROOT, file)}: ${expression.slice(0, 60)} …`);
    });
  expect(long).toEqual([]);
});
