import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { analysisReport } from '../packages/core/src/measures/analysis-report.ts';
import { askMembers } from '../packages/core/src/measures/measure.ts';
import { MEASURES, PAIR_MEASURES } from '../packages/core/src/measures/registry.ts';
import { FORMATS, FORMATS_IN_WORDS } from '../packages/core/src/formats/registry.ts';
import { RUNTIMES, runtimeOf } from '../packages/core/src/runtimes/registry.ts';
import { QUESTIONS } from '../packages/web/src/questions/registry.ts';
import { PROTOCOL_VERSION } from '../packages/web/src/worker/protocol.ts';
import { filesIn } from './files-in.ts';

const ROOT = join(__dirname, '..');
const text = (file: string): string => readFileSync(join(ROOT, file), 'utf8');
const folders = (path: string): string[] => filesIn(join(ROOT, path)).folders;

test('every question is a folder, asks measures that there are, and is told in the docs', () => {
  expect(folders('packages/web/src/questions').sort()).toEqual(QUESTIONS.map(({ id }) => id).sort());
  const docs = text('docs/questions.md');
  for (const { id, title, measures, line } of QUESTIONS) {
    expect(measures.filter((name) => !(name in MEASURES) && !(name in PAIR_MEASURES))).toEqual([]);
    expect(docs).toContain(`## ${title}`);
    expect(docs).toContain(`\`/recording/ID/${id}\``);
    expect(typeof line).toBe('function');
  }
});

test('every measure is a file, is asked by the page, and is told in the docs with all that may be asked', () => {
  const docs = text('docs/asking.md');
  const page = filesIn(join(ROOT, 'packages/web/src'))
    .all.filter((file) => /\.(?:ts|vue)$/.test(file))
    .map((file) => readFileSync(file, 'utf8'))
    .join('\n');
  for (const { name, title, ask } of [...Object.values(MEASURES), ...Object.values(PAIR_MEASURES)]) {
    const section = docs.split(`\n## ${name}\n`)[1]?.split('\n## ')[0] ?? '';
    expect(`${name}: ${section}`).toContain(title);
    for (const { name: member } of askMembers(ask)) expect(`${name}: ${section}`).toContain(`\`${member}\``);
    expect(page).toMatch(new RegExp(`(?:measure\\(|pair\\(sides, |side\\.value, |wholeSide\\.value, )'${name}'`));
  }
  const told = [...docs.matchAll(/^## (\w+)$/gm)].map((found) => found[1]!);
  expect(told.filter((name) => !(name in MEASURES) && !(name in PAIR_MEASURES))).toEqual([]);
});

test('members of the JSON that measures name are told in the docs', () => {
  const docs = text('docs/asking.md');
  for (const { report } of Object.values(MEASURES))
    for (const member of report) expect(docs).toContain(`\`${member}\``);
  expect(analysisReport).toBeDefined();
});

test('every format is a folder with a README, says in words what it is, and is told in the docs', () => {
  const docs = text('docs/formats.md');
  for (const { name, words, runtime, createParser } of FORMATS) {
    expect(FORMATS_IN_WORDS).toContain(words);
    expect(docs).toContain(`\`${name}\``);
    expect(createParser().runs).toEqual([]);
    expect(runtime === null || RUNTIMES.includes(runtime)).toBe(true);
  }
  const parsers = folders('packages/core/src/formats').filter(
    (each) => !['columns-file', 'inventory-file', 'recording-file'].includes(each),
  );
  expect(parsers).toHaveLength(FORMATS.length);
  for (const folder of parsers)
    expect(text(`packages/core/src/formats/${folder}/README.md`).length).toBeGreaterThan(100);
});

test('every runtime is told apart by what sources call it', () => {
  const called = ['OpenJDK 17.0.9', 'Node.js v20.20.2', 'Go', 'CPython', 'Ruby'];
  expect(called.map((name) => runtimeOf(name).name)).toEqual(RUNTIMES.map(({ name }) => name));
  expect(runtimeOf('a runtime of its own').name).toBe('unknown');
  const docs = text('docs/adding-a-runtime.md');
  for (const { name } of RUNTIMES) expect(docs).toContain(`\`${name}\``);
});

test('the protocol has a version that both ends compare', () => {
  expect(PROTOCOL_VERSION).toBeGreaterThan(1);
  for (const file of ['client-core.ts', 'worker-desk.ts'])
    expect(text(`packages/web/src/worker/${file}`)).toMatch(/version !== PROTOCOL_VERSION/);
});
