import { join } from 'node:path';
import type { BrowserContext, Page } from 'playwright-core';
import { ROOT, runHeron, serveHeron, until, type ServedHeron } from '../run-heron.ts';
import { choose, openBrowser, openPage, violations } from './browser.ts';

let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let errors: string[];
const SAMPLE = 'tidewatch-with-its-window.heron';

beforeAll(async () => {
  server = await serveHeron();
  context = await openBrowser(server);
  ({ page, errors } = await openPage(context));
  await page.goto(server.address);
  await page.locator(`[data-sample="${SAMPLE}"]`).click();
  await page.getByRole('link', { name: /What survives/ }).click();
  await page.locator('[data-test=survival-keys] tbody tr.row').first().waitFor();
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

const row = (name: string) => page.locator('[data-test=survival-keys] tbody tr.row', { hasText: name });
const curves = (): Promise<number> => page.locator('svg.curve-chart path.marks').count();

test('the table says of each key what heron ask says', async () => {
  const file = join(ROOT, 'examples/recordings', SAMPLE);
  const { stdout } = await runHeron(['ask', file, '--measure', 'survival', '--json', '--set', 'most=60']);
  const { groups } = JSON.parse(stdout) as { groups: { name: string | null; samples: number }[] };
  for (const { name, samples } of groups.slice(1, 6)) {
    const cell = row(name!.split(' ')[0]!).first().locator('.col-samples');
    expect(Number((await cell.innerText()).replaceAll(',', ''))).toBe(samples);
  }
  expect(await row('add').first().innerText()).toMatch(/outlives the rest, surely/);
});

test('curves are added and taken away, and stand in the address', async () => {
  const before = await curves();
  await row('slide').getByRole('checkbox').check();
  await until('one more', async () => (await curves()) === before + 1);
  await until('the address', async () => new URL(page.url()).searchParams.get('drawn')?.includes('slide') === true);
  await page.reload();
  await row('slide').waitFor();
  await until('as many after a reload', async () => (await curves()) === before + 1);
  await row('slide').getByRole('checkbox').uncheck();
  await until('one less', async () => (await curves()) === before);
});

test('two curves that are chosen are held against each other', async () => {
  for (const box of await page.locator('[data-test=survival-keys] tbody tr.row').getByRole('checkbox').all())
    await box.uncheck();
  await row('add').first().getByRole('checkbox').check();
  await row('receive').first().getByRole('checkbox').check();
  await page
    .locator('[data-test=curve-pair]', { hasText: /add outlives receive, surely|receive dies sooner than add, surely/ })
    .waitFor();
  await row('receive').first().getByRole('checkbox').uncheck();
  await page.locator('[data-test=curve-pair]').waitFor({ state: 'detached' });
});

test('age can be counted in collections and in bytes', async () => {
  await choose(page.locator('[data-test=age-kind]'), 'collections');
  await page.locator('[data-test=survival-keys]', { hasText: /\d collections/ }).waitFor();
  await choose(page.locator('[data-test=age-kind]'), 'allocated');
  await page.locator('[data-test=survival-keys]', { hasText: /(?:KiB|MiB)/ }).waitFor();
  await choose(page.locator('[data-test=age-kind]'), 'seconds');
});

test('a region drawn on the map is found everywhere, and by keys alone', async () => {
  await page.getByRole('button', { name: 'by birth and age' }).click();
  const map = page.locator('[data-test=birth-age]');
  await map.waitFor();
  const box = (await map.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.3, box.y + box.height * 0.1);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.6, { steps: 4 });
  await page.mouse.up();
  const find = page.locator('[data-test=find] input');
  await until('a find of the region', async () => /^born=\S+ age=\S+ fate=died$/.test(await find.inputValue()));
  await page.getByRole('link', { name: /Who allocates/ }).click();
  await page.locator('[data-test=alloc-sites] tbody tr.row').first().waitFor();
  await find.fill('');
  await page.getByRole('link', { name: /What survives/ }).click();
  await map.focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Enter');
  await until('a find by keys', async () => /born=.* fate=died/.test(await find.inputValue()));
  await find.fill('');
});

test('classes and promotion tell of keys, and axe finds nothing in any mode', async () => {
  for (const [mode, ready] of [
    ['by how they go', '[data-test=lifetimes] tbody tr.row'],
    ['what is promoted', '[data-test=promotion] tbody tr.row'],
    ['by birth and age', '[data-test=birth-age] canvas'],
    ['as curves', '[data-test=survival-keys] tbody tr.row'],
  ] as const) {
    await page.getByRole('button', { name: mode }).click();
    await page.locator(ready).first().waitFor();
    expect(await violations(page)).toEqual([]);
  }
});

test('of a log it is said what a log does not tell', async () => {
  await page.goto(server.address);
  await page.locator('[data-test=file]').setInputFiles([join(ROOT, 'examples/logs/weirkeeper-serial.log')]);
  await page.waitForURL(/\/recording\//);
  await page.getByRole('link', { name: /What survives/ }).click();
  await page.locator('[data-test=survival-missing]', { hasText: /A GC log follows no objects/ }).waitFor();
});

test('no page error came', () => {
  expect(errors).toEqual([]);
});
