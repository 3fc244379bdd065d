import { join } from 'node:path';
import type { BrowserContext, Page } from 'playwright-core';
import { ROOT, runHeron, serveHeron, until, type ServedHeron } from '../run-heron.ts';
import { choose, openBrowser, openPage, violations } from './browser.ts';

let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let errors: string[];
const [BEFORE, AFTER] = ['tidewatch-with-its-leak-and-churn.heron', 'tidewatch-fixed.heron'];

beforeAll(async () => {
  server = await serveHeron();
  context = await openBrowser(server);
  ({ page, errors } = await openPage(context));
  await page.goto(server.address);
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

const sentence = () => page.locator('[data-test=changes-sentence]');
const keyRow = (name: string) => page.locator('[data-test=key-changes] tbody tr.row', { hasText: name }).first();

test('the first page leads to the question whether the fix worked, and it is answered as on the command line', async () => {
  await page.locator('[data-test=compare-samples]').click();
  await sentence().waitFor();
  const [a, b] = [BEFORE, AFTER].map((file) => join(ROOT, 'examples/recordings', file));
  const { stdout } = await runHeron(['compare', a!, b!, '--json']);
  const told = JSON.parse(stdout) as { schema: string; outcome: string; sentence: string };
  expect(told).toMatchObject({ schema: 'brisk-heron/comparison@1', outcome: 'fixed' });
  expect(await sentence().innerText()).toBe(told.sentence);
  await page.getByRole('link', { name: /What changed\? fixed/ }).waitFor();
  await page.locator('[data-test=figure-changes] tbody tr.row', { hasText: 'growth a second' }).waitFor();
  await page.locator('[data-test=side-A]', { hasText: 'Growing 4.99 MiB/min' }).waitFor();
  expect(await violations(page)).toEqual([]);
});

test('keys show what each side had, and a reload shows the same look', async () => {
  await page.getByRole('button', { name: 'by key' }).click();
  await keyRow('subscribe').waitFor();
  expect(await keyRow('subscribe').innerText()).toMatch(/5\.00 MiB[\s\S]*clear/);
  await choose(page.locator('[data-test=changes-of]'), 'allocated');
  await keyRow('parseReading').filter({ hasText: 'clear' }).waitFor();
  await page.reload();
  await keyRow('parseReading').filter({ hasText: 'clear' }).waitFor();
  await page.locator('[data-test=find] input').fill('subscribe');
  await until('one key', async () => (await page.locator('[data-test=key-changes] tbody tr.row').count()) === 1);
  await page.locator('[data-test=find] input').fill('');
  expect(await violations(page)).toEqual([]);
});

test('names are matched by rules that can be seen and edited', async () => {
  const lines = page.locator('[data-test=rule-lines] textarea').first();
  await page.locator('[data-test=name-rules]').click();
  await lines.waitFor();
  expect(await lines.inputValue()).toContain('-{hash}.js');
  await lines.fill('plain text');
  await page.locator('[data-test=rule-problem]', { hasText: 'expected a rule with {hash}' }).waitFor();
  await lines.fill('.{hash}.js');
  await page.locator('[data-test=match-by]').click();
  await page.locator('[data-test=name-rules]', { hasText: '1 rules of names' }).waitFor();
  await page.keyboard.press('Escape');
  await keyRow('parseReading').waitFor();
});

test('turned round it is worse, and back it is fixed', async () => {
  await page.locator('[data-test=turn-sides]').click();
  await sentence()
    .filter({ hasText: /^Worse: memory grows/ })
    .waitFor();
  await page.locator('[data-test=turn-sides]').click();
  await sentence()
    .filter({ hasText: /^Fixed/ })
    .waitFor();
});

test('a span dragged on the ribbon of one side is compared with the other', async () => {
  await page.getByRole('button', { name: 'ribbons of both' }).click();
  const ribbon = page.locator('[data-test=ribbon-a]');
  await ribbon.waitFor();
  const box = (await ribbon.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.4, box.y + 60);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.7, box.y + 60, { steps: 4 });
  await page.mouse.up();
  await until('the span in the address', async () => new URL(page.url()).searchParams.has('otherspan'));
  await page.locator('[data-test=side-A]', { hasText: /0:3\d\.\d – 1:0\d\.\d/ }).waitFor();
  await ribbon.focus();
  await page.keyboard.press('Escape');
  await page.locator('[data-test=side-A]', { hasText: 'all of it' }).waitFor();
  expect(await violations(page)).toEqual([]);
});

test('the ribbons stand beside each other as they are moved by hand', async () => {
  await choose(page.locator('[data-test=changes-align]'), 'hand');
  await page.locator('[data-test=changes-shift] input').fill('25');
  await until('the shift in the address', async () => new URL(page.url()).searchParams.get('shift') === '25000');
  await page.reload();
  await page.locator('[data-test=two-ribbons]').waitFor();
  expect(await page.locator('[data-test=changes-shift] input').inputValue()).toBe('25');
});

test('a round of the other recording is a side, and a key of the drawer is compared', async () => {
  await choose(page.locator('[data-test=compare-part]'), 'otherround=2:reconnect');
  await page.locator('[data-test=side-A]', { hasText: /0:(19|20)\.\d – 0:(29|30)\.\d/ }).waitFor();
  await choose(page.locator('[data-test=compare-part]'), '');
  await page.locator('[data-test=side-A]', { hasText: 'all of it' }).waitFor();
  await page.getByRole('link', { name: /Who allocates/ }).click();
  const row = page.locator('tbody tr.row', { hasText: 'parseReading' }).first();
  await row.getByRole('button').first().click();
  await page.locator('[data-test=compare-key]').click();
  const rows = page.locator('[data-test=key-changes] tbody tr.row');
  await until('that key alone', async () => (await rows.count()) === 1);
  expect(await rows.innerText()).toContain('parseReading');
  await page.locator('[data-test=find] input').fill('');
  await page.getByRole('button', { name: 'close' }).click();
  await page.getByRole('button', { name: 'ribbons of both' }).click();
});

test('two spans of one recording are compared', async () => {
  await choose(page.locator('[data-test=compare-with]'), 'self');
  await page.locator('[data-test=side-A]', { hasText: /0:00\.0 – 0:4\d/ }).waitFor();
  await page.locator('[data-test=side-B]', { hasText: /0:4\d.\d – 1:30/ }).waitFor();
  expect(await sentence().innerText()).not.toMatch(/^Fixed/);
});

test('pauses of both are drawn over each other, with a table', async () => {
  await page.getByRole('button', { name: 'pauses of both' }).click();
  await page.locator('svg.pauses-compared path').nth(1).waitFor();
  await page.getByRole('button', { name: 'as a table' }).first().click();
  await page.getByRole('region', { name: 'Share of pauses at most so long, as a table' }).waitFor();
});

test('two recordings that are chosen in the list are compared, what began first before', async () => {
  await page.goto(server.address);
  for (const box of await page.locator('[data-test=recording-row] input[type=checkbox]').all()) await box.check();
  await page.locator('[data-test=compare-chosen]').click();
  await sentence().waitFor();
});

test('runs of one program stand on one time line, each with the way to it', async () => {
  await page.goto(server.address);
  await page.locator('[data-test=over-time]').click();
  const rows = page.locator('[data-test=history] tbody tr');
  await rows.nth(1).waitFor();
  expect((await rows.allInnerTexts()).map((text) => /growing|steady/.exec(text)?.[0])).toEqual(['growing', 'steady']);
  expect(await violations(page)).toEqual([]);
  await rows.first().getByRole('link').click();
  await page.locator('[data-test=verdict]', { hasText: 'Growing' }).waitFor();
  await page.goBack();
  await page.goBack();
  await page.locator('[data-test=compare-samples]').click();
  await sentence().waitFor();
});

test('a side that is not in this browser is told, and the page goes on', async () => {
  const url = new URL(page.url());
  url.searchParams.set('other', 'nowhere');
  await page.goto(url.href);
  await page.locator('[data-test=changes-problem]', { hasText: 'not in this browser' }).waitFor();
  await page.getByRole('link', { name: /Is it growing/ }).click();
  await page.locator('[data-test=growth-sites] tbody tr.row').first().waitFor();
  expect(errors).toEqual([]);
});
