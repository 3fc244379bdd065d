import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';

/** The tree's allowed imports: a folder on the left may import from those on the right, and from itself. */
const ALLOWED: Readonly<Record<string, readonly string[]>> = {
  'core/base': [],
  'core/model': ['core/base'],
  'core/runtimes': ['core/base', 'core/model'],
  'core/formats': ['core/base', 'core/model', 'core/runtimes'],
  'core/stats': ['core/base'],
  'core/query': ['core/base', 'core/model', 'core/stats', 'core/analysis'],
  'core/analysis': ['core/base', 'core/model', 'core/stats'],
  'core/study': ['core/base', 'core/model', 'core/formats', 'core/stats', 'core/analysis', 'core/query'],
  'core/measures': ['core/base', 'core/model', 'core/stats', 'core/analysis', 'core/query', 'core/study'],
  'server/schemas': ['core'],
  'server/storage': ['core', 'server/schemas'],
  'server/routes': ['core', 'server/schemas', 'server/storage'],
  'cli/render': ['core'],
  'cli/input': ['core', 'server'],
  'cli/recording': ['core', 'server', 'recorder-node', 'cli'],
  'cli/commands': ['core', 'server', 'recorder-node', 'cli', 'cli/render', 'cli/input', 'cli/recording'],
  'web/db': ['core'],
  'web/worker': ['core', 'web', 'web/db'],
  'web/charts': ['core'],
  'web/words': ['core'],
  'web/sources': ['core'],
  'web/stores': ['core', 'web', 'web/db', 'web/sources', 'web/worker'],
  'web/components': ['core', 'web', 'web/charts', 'web/words', 'web/worker'],
  'web/ribbon': ['core', 'web/charts'],
  'web/look-controls': ['core', 'web/charts', 'web/components', 'web/db', 'web/stores', 'web/words'],
  'web/questions': [
    'core',
    'web/charts',
    'web/components',
    'web/look-controls',
    'web/ribbon',
    'web/stores',
    'web/words',
    'web/worker',
  ],
  'web/guide': ['web/questions', 'web/stores'],
  'web/workspace': [
    'core',
    'web/charts',
    'web/components',
    'web/look-controls',
    'web/questions',
    'web/ribbon',
    'web/sources',
    'web/stores',
    'web/worker',
  ],
  'web/home': ['core', 'web/components', 'web/db', 'web/stores', 'web/words', 'web/worker'],
};

const ROOT = join(__dirname, '..', 'packages');
const PACKAGES = ['core', 'server', 'cli', 'web', 'recorder-node'];

function filesUnder(directory: string): string[] {
  return readdirSync(directory, { withFileTypes: true }).flatMap((entry) => {
    const path = join(directory, entry.name);
    if (entry.isDirectory()) return filesUnder(path);
    return /\.(?:ts|vue)$/.test(entry.name) ? [path] : [];
  });
}

interface Edge {
  readonly from: string;
  readonly to: string;
  readonly typeOnly: boolean;
}

function importsOf(file: string): Edge[] {
  const text = readFileSync(file, 'utf8');
  const found = [
    ...text.matchAll(/^(import|export) (type )?[^;]*?from '([^']+)'/gms),
    ...text.matchAll(/^(import)( )'([^']+)'/gms),
    // Loaded when they are wanted, or run as a worker.
    ...text.matchAll(/\b(import)(\()'([^']+)'\)/g),
    ...text.matchAll(/\b(new URL)(\()'([^']+\.ts)'/g),
  ];
  return found.flatMap(([, , type, target]) => {
    // Text that is carried along, no code.
    if (target!.endsWith('?raw')) return [];
    if (target!.startsWith('.'))
      return [{ from: file, to: resolve(dirname(file), target!), typeOnly: type === 'type ' }];
    const own = /^@brisk-heron\/([a-z-]+)/.exec(target!);
    return own === null ? [] : [{ from: file, to: join(ROOT, own[1]!, 'src', 'index.ts'), typeOnly: type === 'type ' }];
  });
}

/** `core/base` for a file in a folder of core, `core` for its index, `web/workers` for anything below workers. */
function layerOf(file: string): string {
  const [name, , folder, rest] = relative(ROOT, file).split('/');
  return rest === undefined ? name! : `${name}/${folder}`;
}

const files = PACKAGES.flatMap((name) => filesUnder(join(ROOT, name, 'src')));
const edges = files.flatMap(importsOf);

test('every import follows the tree', () => {
  const forbidden = edges.filter(({ from, to }) => {
    const source = layerOf(from);
    const target = layerOf(to);
    const allowed = ALLOWED[source];
    return allowed !== undefined && source !== target && !allowed.includes(target);
  });
  expect(forbidden.map(({ from, to }) => `${relative(ROOT, from)} → ${relative(ROOT, to)}`)).toEqual([]);
  expect(edges.length).toBeGreaterThan(150);
});

test('every folder has its rule', () => {
  const layers = new Set(files.map(layerOf).filter((layer) => layer.includes('/')));
  const free = ['recorder-node/inspector', 'recorder-node/native'];
  expect([...layers].filter((layer) => !(layer in ALLOWED) && !free.includes(layer))).toEqual([]);
  expect(Object.keys(ALLOWED).filter((layer) => !layers.has(layer))).toEqual([]);
});

test('the recorder takes nothing but types from other packages', () => {
  const taken = edges.filter(
    ({ from, to, typeOnly }) => layerOf(from) === 'recorder-node' && !to.includes('recorder-node') && !typeOnly,
  );
  expect(taken).toEqual([]);
});

test('no file imports itself by a detour', () => {
  const next = new Map<string, string[]>();
  for (const { from, to, typeOnly } of edges) if (!typeOnly) next.set(from, [...(next.get(from) ?? []), to]);
  const done = new Set<string>();
  const cycles: string[] = [];
  const walk = (file: string, path: readonly string[]): void => {
    const at = path.indexOf(file);
    if (at >= 0) {
      cycles.push([...path.slice(at), file].map((each) => relative(ROOT, each)).join(' → '));
      return;
    }
    if (done.has(file)) return;
    for (const target of next.get(file) ?? []) walk(target, [...path, file]);
    done.add(file);
  };
  for (const file of files) walk(file, []);
  expect(cycles).toEqual([]);
});
