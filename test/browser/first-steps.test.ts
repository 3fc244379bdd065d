import { join } from 'node:path';
import type { BrowserContext, Page } from 'playwright-core';
import { ROOT, serveHeron, until, type ServedHeron } from '../run-heron.ts';
import { openBrowser, openPage, violations } from './browser.ts';

let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let errors: string[];
const LOGS = ['weirkeeper-serial.log', 'weirkeeper-parallel.log', 'weirkeeper-g1.log'];

beforeAll(async () => {
  server = await serveHeron();
  context = await openBrowser(server);
  ({ page, errors } = await openPage(context));
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

const member = (name: string): string | null => new URL(page.url()).searchParams.get(name);

test('the guide leads through a leak to its fix in the real screens, and can be left', async () => {
  await page.goto(server.address);
  await page.locator('[data-test=start-here]').click();
  const guide = page.locator('[data-test=guide]');
  const next = page.locator('[data-test=guide-next]');
  await guide.getByText('Is it growing?').waitFor();
  await page.locator('[data-test=growth-sites] tbody tr.row').first().waitFor();
  expect(await violations(page)).toEqual([]);
  await next.click();
  await until('a span between two marks', async () => member('span') !== null);
  await next.click();
  await page.locator('[data-test=site-name]', { hasText: 'subscribe' }).waitFor();
  expect(member('span')).toBeNull();
  await next.click();
  await page.locator('[data-test=outline] [role=treeitem]', { hasText: 'subscribe' }).first().waitFor();
  // A reload goes on where it was.
  await page.reload();
  await guide.getByText('Why does it stay?').waitFor();
  await next.click();
  await page.locator('[data-test=verdict]', { hasText: /^Ste/ }).waitFor();
  await guide.getByText('Is it fixed?').waitFor();
  await page.locator('[data-test=guide-leave]').click();
  await guide.waitFor({ state: 'detached' });
  // The sample is here already: starting again opens it, and makes no second one.
  await page.goto(server.address);
  await page.locator('[data-test=recording-row]').nth(1).waitFor();
  await page.locator('[data-test=start-here]').click();
  await page.locator('[data-test=growth-sites] tbody tr.row').first().waitFor();
  await page.locator('[data-test=guide-leave]').click();
  await page.goto(server.address);
  await page.locator('[data-test=recording-row]').nth(1).waitFor();
  expect(await page.locator('[data-test=recording-row]').count()).toBe(2);
});

test('recordings are found by words, and several are deleted at once', async () => {
  for (const log of LOGS) {
    await page.goto(server.address);
    await page.locator('[data-test=file]').setInputFiles([join(ROOT, 'examples/logs', log)]);
    await page.waitForURL(/\/recording\//);
    await page.locator('[data-test=verdict]').waitFor();
  }
  await page.goto(server.address);
  await page.locator('[data-test=samples] [data-sample="tidewatch-with-its-window.heron"]').click();
  await page.locator('[data-test=growth-sites] tbody tr.row').first().waitFor();
  await page.goto(server.address);
  const rows = page.locator('[data-test=recording-row]');
  await until('six rows', async () => (await rows.count()) === 6);
  expect(await violations(page)).toEqual([]);
  await page.locator('[data-test=search-recordings] input').fill('parallel');
  await until('one row', async () => (await rows.count()) === 1);
  await page.locator('[data-test=search-recordings] input').fill('weirkeeper');
  await until('three rows', async () => (await rows.count()) === 3);
  for (const at of [0, 1]) await rows.nth(at).getByRole('checkbox').check();
  await page.locator('[data-test=several]', { hasText: '2 chosen' }).getByRole('button', { name: 'delete' }).click();
  await page.getByRole('heading', { name: 'Delete 2 recordings?' }).waitFor();
  expect(await violations(page)).toEqual([]);
  await page.locator('[data-test=delete]').click();
  await until('one left of them', async () => (await rows.count()) === 1);
  await page.locator('[data-test=search-recordings] input').fill('');
  await until('four in all', async () => (await rows.count()) === 4);
});

test('words explain themselves, and ? tells the keys of the view', async () => {
  await page.locator('[data-test=recording-row] a', { hasText: 'leak' }).click();
  await page.locator('[data-test=growth-sites] tbody tr.row').first().waitFor();
  await page.getByRole('link', { name: 'Floor' }).focus();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Shift+Tab');
  await page.getByText('memory still used right after a collection').first().waitFor();
  await page.locator('[data-test=ribbon]').focus();
  await page.keyboard.press('?');
  const keys = page.locator('[data-test=keys-list]');
  await keys.getByText('zooms in and out').waitFor();
  expect(await violations(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await keys.waitFor({ state: 'detached' });
  await page.locator('[data-test=find] input').focus();
  await page.keyboard.press('?');
  expect(await keys.count()).toBe(0);
  expect(await page.locator('[data-test=find] input').inputValue()).toBe('?');
  await page.locator('[data-test=find] input').fill('');
});

test('a time is gone to by either clock, and two marks make a span', async () => {
  const goTo = page.locator('[data-test=go-to] input');
  await goTo.fill('0:20 - 0:40');
  await goTo.press('Enter');
  await until('the span', async () => member('span') === '20000~40000');
  const clock = await page.locator('[data-test=clock]').innerText();
  const [, began] = /^(\d\d:\d\d:\d\d) – /.exec(clock)!;
  await goTo.fill(began!);
  await goTo.press('Enter');
  await page.locator('[data-test=moment]', { hasText: /What lived at 0:(?:19|20)\./ }).waitFor();
  await goTo.fill('noon');
  await goTo.press('Enter');
  await page.locator('[data-test=go-to] input[aria-invalid=true]').waitFor();
  await page.locator('[data-test=marks]').click();
  const marks = page.locator('[data-test=mark-list] button', { hasText: 'reconnect' });
  await marks.nth(1).click();
  await marks.nth(3).click();
  await until('another span', async () => !['20000~40000', null].includes(member('span')));
  const [from, to] = member('span')!.split('~').map(Number);
  expect(to! - from!).toBeGreaterThan(15_000);
  await page.keyboard.press('Escape');
});

test('a function without a name is found by what the drawer writes', async () => {
  await page.getByRole('link', { name: /Who allocates/ }).click();
  await page.locator('[data-test=alloc-sites] tbody button', { hasText: '(anonymous) wire.js:3' }).click();
  await page.getByRole('button', { name: 'Only this' }).click();
  await until('the find', async () => member('find') === 'function=(anonymous) wire.js:3');
  await until('one row', async () => (await page.locator('[data-test=alloc-sites] tbody tr.row').count()) === 1);
});

test('columns are left out, and stay so', async () => {
  const table = page.locator('[data-test=alloc-sites]');
  await table.getByRole('button', { name: 'columns' }).click();
  await page.getByRole('checkbox', { name: 'samples' }).uncheck();
  await table.locator('th.col-samples').waitFor({ state: 'detached' });
  await page.keyboard.press('Escape');
  await page.reload();
  await table.locator('tbody tr.row').first().waitFor();
  expect(await table.locator('th.col-samples').count()).toBe(0);
});

test('on paper stand the verdict, the ribbon and the view', async () => {
  await page.emulateMedia({ media: 'print' });
  expect(await page.locator('[data-test=verdict]').isVisible()).toBe(true);
  expect(await page.locator('[data-test=alloc-sites]').isVisible()).toBe(true);
  expect(await page.locator('[data-test=find]').isVisible()).toBe(false);
  await page.emulateMedia({ media: null });
});

test('no page error came', () => {
  expect(errors).toEqual([]);
});
