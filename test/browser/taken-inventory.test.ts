import { join } from 'node:path';
import type { BrowserContext, Page } from 'playwright-core';
import { compile, describeJvm, java, program } from '../../packages/recorder-jvm/test/jvm.ts';
import { ROOT, runHeron, scratch, serveHeron, startHeron, type ServedHeron, until } from '../run-heron.ts';
import { choose, openBrowser, openPage, violations } from './browser.ts';

let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let errors: string[];
let recorded: ReturnType<typeof startHeron> | null = null;

beforeAll(async () => {
  server = await serveHeron();
  context = await openBrowser(server);
  ({ page, errors } = await openPage(context));
});

afterAll(async () => {
  await context?.close();
  recorded?.child.kill('SIGINT');
  await recorded?.end;
  await server?.stop();
});

const row = (table: string, key: string) =>
  page.locator(`[data-test=${table}] tbody tr.row`).filter({ has: page.getByText(key, { exact: true }) });

test('an inventory is taken of a program under recording, once its cost was told', async () => {
  const watching = join(ROOT, 'packages/cli/test/programs/watching.js');
  recorded = startHeron(
    [
      ...['record', '--server', `${server.address}/?token=${server.token}`, '--id', 'watching', '--'],
      ...['node', watching, '600000'],
    ],
    { BRISK_HERON_DATA: scratch() },
  );
  await until('lines', async () => (await (await server.ask('/api/streams/watching')).text()).includes('"bytes"'));
  await page.goto(`${server.address}/recording/live-watching/growth`);
  await page.getByRole('link', { name: /Why does it stay/ }).click();
  await page.locator('[data-test=no-inventory]').waitFor();
  await page.locator('[data-test=take-inventory]').click();
  await page
    .locator('[data-test=inventory-cost]', { hasText: /will stand still for about .* more memory meanwhile/ })
    .waitFor();
  expect(await violations(page)).toEqual([]);
  await page.getByLabel('to be compared with the next one').check();
  await page.locator('[data-test=take-it]').click();
  await row('held', 'Alerts').waitFor();
  await page.getByText(/The program stood still for it for/).waitFor();
  await page.locator('[data-test=reasons]', { hasText: /usual reason/ }).waitFor();
  expect(await violations(page)).toEqual([]);
});

test('a second is compared with it, object by object, by the numbers that were kept', async () => {
  await page.locator('[data-test=take-inventory]').click();
  await page.locator('[data-test=take-it]').click();
  await page.locator('[data-test=held-at]').waitFor();
  await choose(page.locator('[data-test=held-before]'), { index: 1 });
  await page.getByText('Objects are followed one by one').waitFor();
  await page.locator('[data-test=held-changes] thead', { hasText: 'came' }).waitFor();
  expect(page.url()).toMatch(/since=live-watching&sincenumber=1/);
  await page.reload();
  await page.locator('[data-test=held-changes] tbody tr.row').first().waitFor();
  expect(await violations(page)).toEqual([]);
  expect(errors).toEqual([]);
});

test('a usual reason shows its objects, and why they stay', async () => {
  await choose(page.locator('[data-test=held-before]'), { index: 0 });
  await page.locator('[data-test=reasons] .v-expansion-panel-title').click();
  await page.locator('[data-test=reason-listeners]').click();
  await page.locator('[data-test=held-sentence]', { hasText: /Array object.* stay.*because/ }).waitFor();
  expect(page.url()).toContain('held=type');
});

describeJvm('of a JVM', () => {
  test('the sites are told, with who allocates them and back', async () => {
    const file = join(scratch(), 'watching.ndjson');
    await runHeron([
      ...['record', '--out', file, '--interval', '65536', '--cost', '0', '--inventory-at', 'full', '--'],
      ...[java(), '-Xmx300m', '-cp', compile(program('Watching')), 'Watching'],
    ]);
    await page.goto(server.address);
    await page.locator('[data-test=file]').setInputFiles(file);
    await page.locator('[data-test=verdict]').waitFor();
    await page.getByRole('link', { name: /Why does it stay/ }).click();
    await row('held', 'Watching$Handler').waitFor();
    await choose(page.locator('[data-test=held-by]'), 'ownFrame');
    const site = page.locator('[data-test=held] tbody tr.row', { hasText: 'Watching.body' });
    await site.getByRole('button').first().click();
    await page
      .locator('[data-test=held-sentence]', {
        hasText: /About .* stay because Watching\.watch \(java\.util\.HashMap\)/,
      })
      .waitFor();
    expect(await violations(page)).toEqual([]);
    await page.locator('[data-test=who-allocates]').click();
    await page.locator('[data-test=growth-sites] tbody button', { hasText: 'Watching.body' }).first().click();
    await page.locator('[data-test=site-name]', { hasText: 'Watching.body' }).waitFor();
    await page.locator('[data-test=why-it-stays]').click();
    await page.locator('[data-test=held-sentence]', { hasText: /allocated at Watching\.body/ }).waitFor();
    expect(errors).toEqual([]);
  });
});
