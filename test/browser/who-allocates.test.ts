import { readFileSync } from 'node:fs';
import type { BrowserContext, Page } from 'playwright-core';
import { KNOWN, KNOWN_MS, keyOf, ROUNDS_MS, type KnownObject } from '../known-recording.ts';
import { until, type ServedHeron } from '../run-heron.ts';
import { choose, downloaded, violations } from './browser.ts';
import { bytes, type Charge, findOn, openKnown, truth } from './known-page.ts';

type Fate = 'all' | 'kept' | 'died';
const COLUMN = { all: 'allocated', kept: 'kept', died: 'died' } as const;

let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let errors: string[];

beforeAll(async () => {
  ({ server, context, page, errors } = await openKnown());
  await page.getByRole('link', { name: /Who allocates/ }).click();
  await page.locator('[data-test=alloc-sites] tbody tr.row').first().waitFor();
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

const hasFate =
  (fate: Fate) =>
  ({ diedMs }: KnownObject): boolean =>
    fate === 'all' || (fate === 'kept') === (diedMs === Infinity);

/** Two columns of the table on the screen, as it is saved. */
async function saved(column: string): Promise<Record<string, number>> {
  const file = await downloaded(page, () => page.locator('[data-test=csv]').click());
  const [head, ...lines] = readFileSync((await file.path())!, 'utf8')
    .trim()
    .split('\n')
    .map((line) => line.split(','));
  return Object.fromEntries(
    lines.map((cells) => [
      cells[0]!,
      Number(cells[head!.findIndex((name) => name === column || name.startsWith(`${column} (`))]),
    ]),
  );
}

/** Keys of the table on the screen with their exact figures, which the second column tells when pointed at. */
const shown = (): Promise<Record<string, number>> =>
  page
    .locator('[data-test=alloc-sites] tbody tr.row:has(td.col-value)')
    .evaluateAll((rows) =>
      Object.fromEntries(
        rows.map((row) => [
          row.querySelector('td')!.textContent.trim().replaceAll(/\s+/g, ' '),
          Number.parseInt(row.querySelector('.col-value')!.getAttribute('title')!.replaceAll(',', ''), 10),
        ]),
      ),
    );

// What the worker answers comes a moment after the click.
async function settles(fate: Fate, expected: Record<string, number>): Promise<void> {
  await page.locator('[data-test=alloc-sites] th.col-value', { hasText: COLUMN[fate] }).waitFor();
  let last: Record<string, number> = {};
  await until('the truth', async () => {
    last = await shown();
    return JSON.stringify(Object.entries(last).sort()) === JSON.stringify(Object.entries(expected).sort());
  }).catch(() => undefined);
  expect(last).toEqual(expected);
}

const find = (text: string): Promise<void> => findOn(page, text);

const CHARGES = Object.keys(keyOf) as Charge[];

test.each(CHARGES)('charged to %s, every fate is the truth, in bytes and in objects', async (charge) => {
  await choose(page.locator('[data-test=charge]'), charge);
  for (const fate of ['all', 'kept', 'died'] as const) {
    await choose(page.locator('[data-test=fate]'), fate);
    await settles(fate, truth(charge, hasFate(fate), bytes));
    await choose(page.getByLabel('Measure'), 'objects');
    await settles(
      fate,
      truth(charge, hasFate(fate), () => 1),
    );
    await choose(page.getByLabel('Measure'), 'bytes');
  }
  await choose(page.locator('[data-test=fate]'), 'all');
});

const FINDS: readonly (readonly [string, (object: KnownObject) => boolean])[] = [
  ['size>1KiB', ({ bytes: size }) => size > 1024],
  ['size=24..64 type=reading', ({ bytes: size, type }) => size >= 24 && size <= 64 && type === 'Reading'],
  ['age<2s', ({ bornMs, diedMs }) => diedMs - bornMs < 2000],
  ['fate=died thread="tide worker"', ({ diedMs, thread }) => diedMs < Infinity && thread === 'tide worker'],
  ['heap=worker !file=text.js', ({ heap, path }) => heap.startsWith('worker') && path[path.length - 1] !== 'split'],
];

test.each(FINDS)('what %s finds is the truth, in every charge', async (text, holds) => {
  await find(text);
  for (const charge of ['site', 'type', 'heap'] as const) {
    await choose(page.locator('[data-test=charge]'), charge);
    await settles('all', truth(charge, holds, bytes));
  }
  await find('');
});

test.each(['entry', 'allocation'])(
  'every level of the call paths from the %s adds up to the truth, with recursion folded or not',
  async (direction) => {
    await page.getByRole('button', { name: 'as call paths' }).click();
    await choose(page.getByLabel('Measure'), 'objects');
    await choose(page.locator('[data-test=direction]'), direction);
    const outline = page.locator('[data-test=outline]');
    for (const recursion of ['folded', 'unfolded']) {
      await choose(page.locator('[data-test=recursion]'), recursion);
      await outline.locator('.row').first().waitFor();
      const closed = outline.locator('[aria-expanded=false]');
      // The tree that was asked for may come a moment after the one before was looked at.
      await until('every level is open', async () => {
        while ((await closed.count()) > 0) {
          const before = await closed.count();
          await closed.first().click();
          await until('it is open', async () => (await closed.count()) !== before);
        }
        return (await outline.locator('.row').count()) > 4;
      });
      const rows = await outline
        .locator('.row')
        .evaluateAll((elements) =>
          elements.map((element) => ({
            level: Number(element.getAttribute('aria-level')),
            top: parseFloat((element as HTMLElement).style.top),
            total: Number(element.querySelector('.total')!.textContent.replaceAll(/[ ,]/g, '')),
            self: Number(element.querySelector('.self')!.textContent.replaceAll(',', '').replace('–', '0')),
          })),
        );
      rows.sort((a, b) => a.top - b.top);
      expect(rows.filter(({ level }) => level === 1).reduce((sum, { total }) => sum + total, 0)).toBe(KNOWN.length);
      rows.forEach((row, at) => {
        const end = rows.findIndex((other, place) => place > at && other.level <= row.level);
        const below = rows.slice(at + 1, end < 0 ? rows.length : end).filter(({ level }) => level === row.level + 1);
        if (below.length > 0) expect(below.reduce((sum, { total }) => sum + total, row.self)).toBe(row.total);
      });
      expect(rows.length).toBeGreaterThan(4);
    }
    await choose(page.locator('[data-test=recursion]'), 'folded');
    await choose(page.getByLabel('Measure'), 'bytes');
    await page.getByRole('button', { name: 'as a table' }).click();
  },
);

test('the drawer tells of a key what the table does', async () => {
  await choose(page.locator('[data-test=charge]'), 'type');
  await settles(
    'all',
    truth('type', () => true, bytes),
  );
  for (const type of ['Reading', 'Float64Array', 'string']) {
    await page.locator('[data-test=alloc-sites] tbody button', { hasText: type }).click();
    const drawer = page.locator('[data-test=drawer]');
    await page.locator('[data-test=site-name]', { hasText: type }).waitFor();
    const of = KNOWN.filter((object) => object.type === type);
    const [allocated, kept] = [of, of.filter(hasFate('kept'))].map((objects) =>
      objects.reduce((sum, object) => sum + object.bytes, 0),
    );
    const exact = (name: string): Promise<string | null> =>
      drawer.locator('tr', { hasText: name }).locator('td[title]').getAttribute('title');
    expect(
      [await exact('allocated in the span'), await exact('kept now')].map((text) =>
        Number.parseInt(text!.replaceAll(',', ''), 10),
      ),
    ).toEqual([allocated, kept]);
    expect(await drawer.innerText()).toContain(`${of.length.toLocaleString('en')}, `);
  }
  await find('!string');
  await page.locator('[data-test=gone]').getByRole('button', { name: 'clear the find' }).click();
  await page.locator('[data-test=site-name]', { hasText: 'string' }).waitFor();
  await page.getByRole('button', { name: 'close' }).click();
});

test('the open lines of the call paths are saved with the way to each', async () => {
  await page.getByRole('button', { name: 'as call paths' }).click();
  await choose(page.locator('[data-test=direction]'), 'entry');
  await page.locator('[data-test=outline] .row[aria-level="2"]').first().waitFor();
  const file = await downloaded(page, () => page.locator('[data-test=csv]').click());
  const lines = readFileSync((await file.path())!, 'utf8')
    .trim()
    .split('\n')
    .map((line) => line.split(','));
  expect(lines[0]).toEqual(['level', 'path', 'with all below', 'with all below ±', 'share', 'itself', 'itself ±']);
  expect(lines[1]!.slice(0, 5)).toEqual([
    '1',
    'serve serve.js:3',
    String(KNOWN.reduce((sum, object) => sum + object.bytes, 0)),
    '0',
    '1',
  ]);
  expect(lines[2]![1]).toMatch(/^serve serve\.js:3 > \S+ /);
  await page.getByRole('button', { name: 'as a table' }).click();
});

test('of some heaps every view tells of them alone', async () => {
  await choose(page.locator('[data-test=charge]'), 'type');
  await page.locator('[data-test=heaps]').click();
  await page.getByLabel('Only worker 1.2').click();
  await page.locator('[data-test=heaps]').filter({ hasText: '1 of 2 heaps' }).waitFor();
  expect(await violations(page)).toEqual([]);
  await settles(
    'all',
    truth('type', ({ heap }) => heap.startsWith('worker'), bytes),
  );
  await page.getByRole('button', { name: 'all of them' }).click();
  await page.locator('[data-test=heaps]').click();
  await settles(
    'all',
    truth('type', () => true, bytes),
  );
});

test('a round has its part of what whole rounds allocated', async () => {
  await choose(page.locator('[data-test=per]'), 'round');
  const [from, to] = [ROUNDS_MS[0]!, ROUNDS_MS[ROUNDS_MS.length - 1]!];
  await page.getByText(`in ${ROUNDS_MS.length - 1} whole rounds`).waitFor();
  await settles(
    'all',
    truth('type', ({ bornMs }) => bornMs >= from && bornMs < to, bytes),
  );
  const first = truth('type', ({ bornMs, type }) => bornMs >= from && bornMs < to && type === 'Reading', bytes)[
    'Reading'
  ]!;
  await page.locator('[data-test=alloc-sites] th', { hasText: 'allocated a round' }).waitFor();
  expect((await saved('allocated a round'))['Reading']).toBeCloseTo(first / (ROUNDS_MS.length - 1), 6);
  await choose(page.locator('[data-test=per]'), 'total');
});

test('churn shares every young collection out', async () => {
  await page.getByRole('button', { name: 'as churn' }).click();
  await page.locator('[data-test=churn] tbody tr.row').first().waitFor();
  const caused = Object.values(await saved('young collections')).reduce((sum, each) => sum + each, 0);
  const ends = KNOWN.reduce((latest, { bornMs }) => Math.max(latest, bornMs), 0);
  // Two heaps, a young collection every half second but for every tenth; those after the last birth have no cause.
  const collections =
    2 *
    Array.from({ length: KNOWN_MS / 500 - 1 }, (_, n) => (n + 1) * 500).filter(
      (t) => t % 5000 !== 0 && t > 1000 && t < ends + 500,
    ).length;
  expect(Math.abs(caused - collections)).toBeLessThanOrEqual(2);
  expect(await page.locator('[data-test=churn] tbody tr.row').first().innerText()).toMatch(/\d \w+ – |under|over|s\b/);
  await page.getByRole('button', { name: 'as a table' }).click();
});

test('of a type there are its sizes, what became of it, and every path that makes it', async () => {
  await page.getByRole('button', { name: 'by size' }).click();
  await choose(page.locator('[data-test=charge]'), 'type');
  const row = page.locator('[data-test=sizes] tbody tr.row', { hasText: 'Float64Array' });
  const of = KNOWN.filter(({ type }) => type === 'Float64Array');
  await row.filter({ hasText: String(of.length) }).waitFor();
  const kept =
    of.filter(hasFate('kept')).reduce((sum, each) => sum + each.bytes, 0) /
    of.reduce((sum, each) => sum + each.bytes, 0);
  expect(Number.parseFloat(await row.locator('td.col-kept').innerText())).toBeCloseTo(100 * kept, 0);
  await row.getByRole('button').click();
  await page.locator('[data-test=its-paths]').click();
  const outline = page.locator('[data-test=outline]');
  await outline.locator('.row').first().waitFor();
  await choose(page.getByLabel('Measure'), 'objects');
  await until(
    'all of the type',
    async () =>
      (await outline.locator('.row[aria-level="1"] .total').allInnerTexts()).reduce(
        (sum, text) => sum + Number(text.replaceAll(',', '')),
        0,
      ) === of.length,
  );
  await choose(page.getByLabel('Measure'), 'bytes');
  await page.getByRole('link', { name: /collecting cost/ }).click();
  await page.locator('[data-test=find-note]').getByRole('button').click();
  await page.getByRole('button', { name: 'close' }).click();
  await page.getByRole('link', { name: /Who allocates/ }).click();
  // The charts of the view before have buttons of the same name.
  await page.locator('h2', { hasText: 'Who allocates' }).waitFor();
  await page.getByRole('button', { name: 'as a table' }).click();
});

test('the picture picks out a word, and says how much has it', async () => {
  await page.getByRole('button', { name: 'as a picture' }).click();
  await page.locator('[data-test=icicle] rect').first().waitFor();
  await choose(page.getByLabel('Measure'), 'objects');
  await choose(page.locator('[data-test=direction]'), 'entry');
  await page.locator('[data-test=pick] input').fill('split');
  const splits = KNOWN.filter(({ path }) => path[path.length - 1] === 'split').length;
  await page
    .locator('[data-test=picked]')
    .filter({ hasText: new RegExp(`cells, ${splits},`) })
    .waitFor();
  expect(await page.locator('[data-test=icicle] g.found').count()).toBeGreaterThan(0);
  await choose(page.getByLabel('Measure'), 'bytes');
  await page.getByRole('button', { name: 'as a table' }).click();
});

test('a find is completed by keyboard, saved, and offered again in another visit', async () => {
  const input = page.locator('[data-test=find] input');
  const options = page.locator('[data-test=find-list] [role=option]');
  await input.fill('');
  await input.pressSequentially('!ty');
  await options.filter({ hasText: '!type=' }).first().waitFor();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await until('the word is completed', async () => (await input.inputValue()) === '!type=');
  await options.filter({ hasText: 'Float64Array' }).waitFor();
  await page.keyboard.type('flo');
  await until('one is left', async () => (await options.count()) === 1);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await until('the find', async () => (await input.inputValue()) === '!type=Float64Array ');
  await settles(
    'all',
    truth('type', ({ type }) => type !== 'Float64Array', bytes),
  );
  await input.click();
  await page.locator('[data-test=save-find]').click();
  await page.reload();
  await page.locator('[data-test=alloc-sites] tbody tr.row').first().waitFor();
  await input.click();
  await options.filter({ hasText: '!type=Float64Array' }).click();
  await settles(
    'all',
    truth('type', ({ type }) => type !== 'Float64Array', bytes),
  );
  await input.fill('size>lots');
  await page.keyboard.press('Escape');
  await page.getByText('expected a size as size>1MiB').waitFor();
  await find('');
});

test('lines of the source come out of a folder, which is remembered', async () => {
  await choose(page.locator('[data-test=charge]'), 'ownFrame');
  await page.evaluate(async () => {
    const root = await navigator.storage.getDirectory();
    const folder = await (
      await root.getDirectoryHandle('saltmarsh', { create: true })
    ).getDirectoryHandle('server', { create: true });
    const file = await (await folder.getFileHandle('wire.js', { create: true })).createWritable();
    await file.write(Array.from({ length: 20 }, (_, n) => `  wire line ${n + 1}`).join('\n'));
    await file.close();
    const picker = async (): Promise<FileSystemDirectoryHandle> => root.getDirectoryHandle('saltmarsh');
    Object.assign(globalThis, { showDirectoryPicker: picker });
  });
  const pickFirst = (): Promise<void> =>
    page.locator('[data-test=alloc-sites] tbody button', { hasText: 'parse' }).first().click();
  await pickFirst();
  await page.getByText('The recording carries no source of this file.').waitFor();
  await page.locator('[data-test=source-folder]').click();
  await page
    .locator('[data-test=source] .here')
    .filter({ hasText: /^7wire line 7$/ })
    .waitFor();
  await page.getByText('server/wire.js:7, as it is in your folder now').waitFor();
  await page.locator('[data-test=alloc-sites] tbody button', { hasText: 'predict' }).first().click();
  await page
    .locator('[data-test=source-problem]')
    .filter({ hasText: /expected a file like saltmarsh\/tide\.js in “saltmarsh”/ })
    .waitFor();
  await page.reload();
  await page.locator('[data-test=alloc-sites] tbody tr.row').first().waitFor();
  await pickFirst();
  await page
    .locator('[data-test=source] .here')
    .filter({ hasText: /^7wire line 7$/ })
    .waitFor();
  await page.getByRole('button', { name: 'close' }).click();
});

test('no error was printed', () => {
  expect(errors).toEqual([]);
});
