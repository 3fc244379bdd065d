import { randomInt } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { join } from 'node:path';
import type { BrowserContext, Page } from 'playwright-core';
import { countedCollections, ROOT, scratch, serveHeron, until, type ServedHeron } from '../run-heron.ts';
import { choose, downloaded, openBrowser, openPage, watchLongTasks } from './browser.ts';

const CORPUS = join(ROOT, '../shared/corpus');
const LOGS = join(ROOT, 'examples/logs');
let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let errors: string[];
let address = '';

beforeAll(async () => {
  server = await serveHeron();
  ({ address } = server);
  context = await openBrowser(server);
  ({ page, errors } = await openPage(context));
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

async function importFiles(files: string[], on = page): Promise<void> {
  await on.goto(address);
  await on.locator('[data-test=file]').setInputFiles(files);
  await on.waitForURL(/\/recording\//);
  await on.locator('[data-test=verdict] button').first().waitFor();
}

/** The exact figure behind a rounded one on the screen. */
async function exactMs(name: string): Promise<number> {
  return Number((await page.locator(`[data-test=${name}]`).getAttribute('title'))!.replace(' ms', ''));
}

async function showCollections(): Promise<void> {
  await page.getByRole('link', { name: /What does collecting cost/ }).click();
  await page.locator('[data-test=pause-count]').waitFor();
}

const present = existsSync(join(CORPUS, 'truth.json'));
(present ? test : test.skip)(
  present
    ? "a log of the corpus shows the truth's figures"
    : 'the corpus is not on this machine: its log is not imported',
  async () => {
    const truth = (
      JSON.parse(readFileSync(join(CORPUS, 'truth.json'), 'utf8')) as Record<string, { pauses: Record<string, number> }>
    )['jdk17-parallel-steady-gcstar']!;
    await importFiles([join(CORPUS, 'logs/jdk17-parallel-steady-gcstar.log')]);
    await showCollections();
    expect(Number((await page.locator('[data-test=pause-count]').innerText()).replaceAll(',', ''))).toBe(
      truth.pauses['count'],
    );
    expect(await exactMs('pause-sum')).toBeCloseTo(truth.pauses['sum_ms']!, 3);
    expect(await exactMs('pause-p99')).toBe(truth.pauses['p99_ms_nearest_rank']);
    expect(await exactMs('pause-max')).toBe(truth.pauses['max_ms']);
  },
);

test("a log of the repository shows the runtime's own count, and its longest pause opens", async () => {
  await importFiles([join(LOGS, 'weirkeeper-parallel.log')]);
  await showCollections();
  expect(await page.locator('[data-test=pause-count]').innerText()).toBe(countedCollections('weirkeeper-parallel.log'));
  await page.locator('[data-test=pause-max]').click();
  await page.locator('[data-test=drawer]', { hasText: /ParOldGen/ }).waitFor();
});

test('a pause goal, edges of buckets and a kind that is picked out change what is shown', async () => {
  await importFiles([join(LOGS, 'weirkeeper-g1.log')]);
  await showCollections();
  const goal = page.locator('[data-test=goal] input');
  await goal.fill('0.001');
  await goal.press('Enter');
  await page.locator('[data-test=over-goal]', { hasText: /break it/ }).waitFor();
  const edges = page.locator('[data-test=edges] input');
  await edges.fill('1, 10');
  await edges.press('Enter');
  await until('the edges that were typed', async () => (await page.locator('.size-chart [role=slider]').count()) === 2);
  // The keyboard moves an edge as well.
  await page.locator('[data-edge="1"]').focus();
  await page.keyboard.press('ArrowRight');
  await until('the edge to move', async () => (await edges.inputValue()) === '1.1, 10');
  // And the pointer.
  const grip = (await page.locator('[data-edge="1"] .grip').boundingBox())!;
  await page.mouse.move(grip.x + grip.width / 2, grip.y + 8);
  await page.mouse.down();
  await page.mouse.move(grip.x + grip.width / 2 + 40, grip.y + 8, { steps: 5 });
  await page.mouse.up();
  await until('the edge to follow the pointer', async () => Number((await edges.inputValue()).split(',')[0]) > 1.2);
  await edges.fill('soon');
  await edges.press('Enter');
  await page.getByText('expected lengths in ms').waitFor();
  await page.locator('[data-test=pause-kinds]').getByRole('button', { name: 'Pause Remark' }).click();
  await until(
    'the picked pauses on the ribbon',
    async () => ((await page.locator('.ribbon path.chosen').getAttribute('d')) ?? '') !== '',
  );
  await choose(page.locator('[data-test=pause-what]'), 'gap');
  await page.getByRole('button', { name: 'show all alike' }).click();
  await until(
    'no picked pauses on the ribbon',
    async () => ((await page.locator('.ribbon path.chosen').getAttribute('d')) ?? '') === '',
  );
});

test('one goes from pause to pause by the keyboard, and reads the lines it was logged in', async () => {
  await importFiles([join(LOGS, 'weirkeeper-serial.log')]);
  await showCollections();
  const began = async (): Promise<string> =>
    page.locator('[data-test=drawer] td', { hasText: 'began' }).locator('xpath=following-sibling::td').innerText();
  await page.keyboard.press('l');
  await page.locator('[data-test=logged]', { hasText: /Pause/ }).waitFor();
  expect(await page.locator('[data-test=pause-length]').innerText()).toBe(
    await page.locator('[data-test=pause-max]').innerText(),
  );
  const longest = await began();
  await page.keyboard.press('p');
  await until('an earlier pause', async () => (await began()) !== longest);
  await page.keyboard.press('n');
  await until('the longest again', async () => (await began()) === longest);
  // What is typed into a field is no step.
  await page.locator('[data-test=goal] input').focus();
  await page.keyboard.press('n');
  await page.waitForTimeout(300);
  expect(await began()).toBe(longest);
});

test('findings lead to their moments; a calm log has none, and says so', async () => {
  await importFiles([join(LOGS, 'weirkeeper-serial.log')]);
  await showCollections();
  await page
    .locator('[data-test=findings] [data-code=storm]', { hasText: /Whole-heap collections give back .* of them/ })
    .waitFor();
  await page.locator('[data-test=moment-storm]').click();
  await page.locator('.ribbon .moment').waitFor();
  await page.locator('[data-test=drawer]', { hasText: /Pause Full/ }).waitFor();
  // A later moment, and then a span that has fewer of them.
  await page
    .locator('[data-code=dies-after-promotion]')
    .getByRole('button', { name: 'the moment after' })
    .click({ clickCount: 3 });
  await page.locator('[data-test=ribbon]').focus();
  for (let n = 0; n < 4; n++) await page.keyboard.press('Shift+ArrowRight');
  await page.locator('[data-test=span]').waitFor();
  await page.locator('[data-test=findings]').waitFor();
  const calm = join(scratch(), 'calm.log');
  writeFileSync(
    calm,
    `[0.006s][info][gc] Using G1\n${Array.from({ length: 30 }, (_, n) => `[${n + 1}.000s][info][gc] GC(${n}) Pause Young (Normal) (G1 Evacuation Pause) 40M->10M(64M) 4.000ms\n`).join('')}`,
  );
  await importFiles([calm]);
  await showCollections();
  await page.locator('[data-test=findings]', { hasText: 'Nothing found' }).waitFor();
});

test('of two runs in one file the last is shown, and the other can be chosen', async () => {
  const both = join(scratch(), 'both.log');
  writeFileSync(
    both,
    readFileSync(join(LOGS, 'weirkeeper-parallel.log'), 'utf8') +
      readFileSync(join(LOGS, 'weirkeeper-serial.log'), 'utf8'),
  );
  await importFiles([both]);
  await showCollections();
  expect(await page.locator('[data-test=pause-count]').innerText()).toBe(countedCollections('weirkeeper-serial.log'));
  await choose(page.locator('[data-test=run]'), '0');
  await page
    .locator('[data-test=pause-count]', { hasText: new RegExp(`^${countedCollections('weirkeeper-parallel.log')}$`) })
    .waitFor();
});

test('what was imported is looked at by the worker that read it', async () => {
  await page.goto(address);
  let workers = 0;
  const count = (): void => {
    workers++;
  };
  page.on('worker', count);
  await page.locator('[data-test=file]').setInputFiles([join(LOGS, 'weirkeeper-serial.log')]);
  await showCollections();
  expect(await page.locator('[data-test=pause-count]').innerText()).toBe(countedCollections('weirkeeper-serial.log'));
  expect(workers).toBe(1);
  await page.goto(address);
  await page.locator('[data-test=recording-row] a').first().click();
  await showCollections();
  expect(workers).toBe(2);
  page.off('worker', count);
});

test("a log is read and looked at without the page's thread", async () => {
  const file = join(scratch(), 'large.log');
  writeFileSync(file, readFileSync(join(LOGS, 'weirkeeper-g1.log'), 'utf8').repeat(40));
  await page.goto(address);
  const blocked = await watchLongTasks(page);
  const from = Date.now();
  await page.locator('[data-test=file]').setInputFiles([file]);
  await page.locator('[data-test=verdict] button').first().waitFor();
  await showCollections();
  // A share, for no clock of a shared machine can be trusted: reading in the page would block it nearly all the time.
  const share = (await blocked()).reduce((sum, ms) => sum + ms, 0) / (Date.now() - from);
  expect(share).toBeLessThan(0.5);
});

test('a recording is kept over a reload, renamed, exported, imported elsewhere identical, and deleted', async () => {
  // Its own name in each try.
  const called = `weirkeeper, spring tide ${randomInt(1e6)}`;
  const file = join(scratch(), 'run 3.log');
  writeFileSync(file, readFileSync(join(LOGS, 'weirkeeper-serial.log')));
  await importFiles([file]);
  const sentence = await page.locator('[data-test=verdict]').innerText();
  await page.reload();
  await until('the same sentence', async () => (await page.locator('[data-test=verdict]').innerText()) === sentence);
  await page.goto(address);
  const row = page.locator('[data-test=recording-row]', { hasText: 'run 3' });
  await row.getByRole('button', { name: 'rename' }).click();
  await page.locator('[data-test=new-name] input').fill(called);
  await page.getByRole('button', { name: 'Rename', exact: true }).click();
  const renamed = page.locator('[data-test=recording-row]', { hasText: called });
  const download = await downloaded(page, () => renamed.getByRole('button', { name: 'export' }).click());
  const exported = join(scratch(), download.suggestedFilename());
  await download.saveAs(exported);
  expect(download.suggestedFilename()).toBe(`${called.replace(/\W+/g, '-')}.heron`);

  const other = await openBrowser(server);
  const second = await openPage(other);
  await importFiles([exported], second.page);
  expect(await second.page.locator('[data-test=verdict]').innerText()).toBe(sentence);
  await second.page.goto(address);
  expect(await second.page.locator('[data-test=recording-row]').innerText()).toContain(called);
  expect(await storedBytes(second.page)).toEqual(readFileSync(file).toString('base64'));
  await other.close();

  await renamed.getByRole('button', { name: 'delete' }).click();
  await page.locator('[data-test=delete]').click();
  await renamed.waitFor({ state: 'detached' });
});

/** All chunks in the browser's store, end to end. */
function storedBytes(on: Page): Promise<string> {
  return on.evaluate(
    () =>
      new Promise<string>((resolve, reject) => {
        const opening = indexedDB.open('brisk-heron');
        opening.onerror = () => reject(new Error('the store cannot be opened'));
        opening.onsuccess = () => {
          const all = opening.result.transaction('chunks').objectStore('chunks').getAll();
          all.onsuccess = () => {
            const parts = (all.result as { bytes: Uint8Array<ArrayBuffer> | Blob }[]).map(({ bytes }) => bytes);
            void new Blob(parts).arrayBuffer().then((whole) => {
              resolve(btoa(Array.from(new Uint8Array(whole), (byte) => String.fromCharCode(byte)).join('')));
            }, reject);
          };
        };
      }),
  );
}

/** Keys of what a store of the page holds: ids of recordings; of chunks, with their sequence. */
const storedKeys = <K extends 'recordings' | 'chunks'>(
  store: K,
): Promise<K extends 'chunks' ? [string, number][] : string[]> =>
  page.evaluate(
    (name) =>
      new Promise((resolve, reject) => {
        const opening = indexedDB.open('brisk-heron');
        opening.onerror = () => reject(new Error('the store cannot be opened'));
        opening.onsuccess = () => {
          const keys = opening.result.transaction(name).objectStore(name).getAllKeys();
          keys.onsuccess = () => {
            opening.result.close();
            resolve(keys.result as never);
          };
        };
      }),
    store,
  );

test.each([
  ['empty.log', Buffer.alloc(0), /is empty/],
  [
    'letter.txt',
    Buffer.from('Dear gauge keeper,\nno collection in here.\n'),
    /expected a recording of this tool, an OpenJDK unified log/,
  ],
  ['broken.heron', gzipSync('{"schema":"brisk-heron/recording@1","name":3}\n'), /expected the header/],
])('%s is refused with what was expected, and leaves nothing behind', async (name, bytes, message) => {
  const file = join(scratch(), name);
  writeFileSync(file, bytes);
  await page.goto(address);
  await page.locator('[data-test=file]').setInputFiles([file]);
  await page.locator('[data-test=problem]').filter({ hasText: message }).waitFor();
  const recordings = await storedKeys('recordings');
  const chunks = await storedKeys('chunks');
  expect(await page.locator('[data-test=recording-row]', { hasText: name.replace(/\..*/, '') }).count()).toBe(0);
  expect(chunks.filter(([recordingId]) => !recordings.includes(recordingId!))).toEqual([]);
});

test('a sample opens with one click and is judged', async () => {
  await page.goto(address);
  await page.locator('[data-test=samples] button', { hasText: 'leak' }).click();
  await page.locator('[data-test=verdict][data-kind=growing]').waitFor();
  await page.goto(address);
  await page.locator('[data-test=samples] button', { hasText: 'Tidewatch, fixed' }).click();
  await page.waitForURL(/\/recording\//);
  await page
    .locator('[data-test=verdict]')
    .filter({ hasText: /Steady|Settled/ })
    .waitFor();
});

test('rounds between marks that repeat name what each leaves, and lead to their span', async () => {
  await page.goto(address);
  await page.locator('[data-test=samples] button', { hasText: 'leak' }).click();
  await page
    .locator('[data-test=rounds] tbody tr.row')
    .first()
    .filter({ hasText: /subscribe.*\+/ })
    .waitFor();
  await page.getByRole('button', { name: 'Span of round 3' }).click();
  await page.locator('[data-test=span]').waitFor();
  const byButton = await page.locator('[data-test=span]').innerText();
  await page.getByRole('button', { name: 'whole recording' }).click();
  await page.locator('.ribbon .flag').nth(2).click();
  await until(
    'the same span by its flag',
    async () => (await page.locator('[data-test=span]').innerText()) === byButton,
  );
});

test('logs of two programs that are given at once are two recordings, and a copy is none', async () => {
  const copy = join(scratch(), 'again.log');
  writeFileSync(copy, readFileSync(join(LOGS, 'weirkeeper-g1.log')));
  await page.goto(address);
  const before = (await storedKeys('recordings')).length;
  await page
    .locator('[data-test=file]')
    .setInputFiles([join(LOGS, 'weirkeeper-g1.log'), join(LOGS, 'weirkeeper-serial.log'), copy]);
  await page
    .locator('[data-test=told]')
    .filter({ hasText: /3 files held 2 runs.* 2 recordings were made of them\. 1 file was a copy/ })
    .waitFor();
  expect((await storedKeys('recordings')).length).toBe(before + 2);
});

test('an address of a recording that is not here says so', async () => {
  await page.goto(`${address}/recording/nothing-of-that-name/growth`);
  await page.locator('[data-test=failure]').filter({ hasText: 'not in this browser' }).waitFor();
});

test('no error was printed', () => {
  expect(errors).toEqual([]);
});

test('a log that names no pauses is not said to cost nothing', async () => {
  const file = join(scratch(), 'z.log');
  writeFileSync(
    file,
    `[0.100s][info][gc] Using The Z Garbage Collector\n${Array.from({ length: 12 }, (_, n) => `[${n * 3 + 1}.000s][info][gc] GC(${n}) Garbage Collection (Allocation Rate) 40M(31%)->${10 + n}M(8%)\n`).join('')}`,
  );
  await importFiles([file]);
  await page.locator('[data-test=verdict][data-kind=growing]').waitFor();
  await page.getByText('12 collections; pauses not told').waitFor();
  await page.getByRole('link', { name: /What does collecting cost/ }).click();
  expect(await page.locator('[data-test=pauses-not-told]').innerText()).toContain(
    '12 collections and none of their pauses',
  );
});
