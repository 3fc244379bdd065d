import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { BrowserContext, Page } from 'playwright-core';
import { scratch, serveHeron, type ServedHeron, until } from '../run-heron.ts';
import { openBrowser, openPage, violations } from './browser.ts';

let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let errors: string[];
let file = '';

const PROGRAM = `
  class Handler { body = new Array(20).fill(1); }
  class AlertService { watch = new Map(); }
  const service = new AlertService();
  for (let n = 0; n < 3000; n++) service.watch.set(n, new Handler());
  require('node:v8').writeHeapSnapshot(process.argv[1]);
  setTimeout(() => service.watch.size, 1);`;

beforeAll(async () => {
  file = join(scratch(), 'app.heapsnapshot');
  expect(spawnSync(process.execPath, ['-e', PROGRAM, file]).status).toBe(0);
  server = await serveHeron();
  context = await openBrowser(server);
  ({ page, errors } = await openPage(context));
  await page.goto(server.address);
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

const row = (key: string) =>
  page.locator('[data-test=held] tbody tr.row').filter({ has: page.getByText(key, { exact: true }) });
const sentence = () => page.locator('[data-test=held-sentence]');

test('an inventory that is dropped opens at why it stays, and says so of itself', async () => {
  await page.locator('[data-test=file]').setInputFiles(file);
  await row('Handler').waitFor();
  expect(page.url()).toContain('/holding');
  expect(await page.locator('[data-test=verdict]').innerText()).toMatch(
    /^An inventory of [\d,]+ objects, .* MiB, at one instant/,
  );
  expect(await violations(page)).toEqual([]);
});

test('of a key a sentence says what keeps it, with the way; a reload and the address say the same', async () => {
  await row('Handler').getByRole('button').first().click();
  const said =
    /^3,000 Handler objects .* stay because AlertService\.watch \(Map\), root: .*, keeps .*them; .* reachable otherwise\.$/;
  await sentence().filter({ hasText: said }).waitFor();
  const why = page.locator('[data-test=held-why]');
  expect(await why.innerText()).toMatch(/referred to by .*[\s\S]*AlertService\.watch/);
  expect(await violations(page)).toEqual([]);
  await page.reload();
  await sentence().filter({ hasText: said }).waitFor();
  await page.locator('[data-test=held-around] .v-expansion-panel-title').click();
  await page
    .locator('[data-test=held-around] button', { hasText: /^Handler/ })
    .first()
    .click();
  const one = page.locator('[data-test=one-object]');
  await one
    .locator('button', { hasText: /^Array/ })
    .first()
    .click();
  await one.getByText('Handler.body').waitFor();
  expect(await violations(page)).toEqual([]);
  await one.getByRole('button', { name: 'close it' }).click();
  await one.waitFor({ state: 'detached' });
  // Once more closes it.
  await row('Handler').getByRole('button').first().click();
  await why.waitFor({ state: 'detached' });
});

test('objects are found by their types and sizes, and what is not understood is told', async () => {
  const find = page.locator('[data-test=held-find] input');
  await find.fill('handler !function own<1KiB');
  await until('one key', async () => (await page.locator('[data-test=held] tbody tr.row').count()) === 1);
  await find.fill('places=alerts.js');
  await page.getByText('expected a word, type=Buffer, own>1MiB').waitFor();
  await find.fill('');
  await row('string').waitFor();
});

test('the other questions say that there is nothing to tell, and nothing breaks', async () => {
  for (const name of [
    /Is it growing/,
    /collecting cost/,
    /Who allocates/,
    /What survives/,
    /What changed/,
    /What happened/,
  ]) {
    await page.getByRole('link', { name }).click();
    await page.locator('main h2').first().waitFor();
  }
  expect(errors).toEqual([]);
});

test('one that is cut off is read as far as it is good, and that is said', async () => {
  const cut = join(scratch(), 'cut.heapsnapshot');
  writeFileSync(cut, readFileSync(file).subarray(0, -200_000));
  await page.goto(server.address);
  await page.locator('[data-test=file]').setInputFiles(cut);
  await page.getByText('The snapshot could not be read whole: it is cut off').waitFor();
});

test('a recording without an inventory says how one is taken', async () => {
  await page.goto(server.address);
  await page.locator('[data-sample="tidewatch-fixed.heron"]').click();
  await page.getByRole('link', { name: /Why does it stay/ }).click();
  await page.locator('[data-test=no-inventory]', { hasText: 'jcmd PID GC.heap_dump' }).waitFor();
  expect(errors).toEqual([]);
});
