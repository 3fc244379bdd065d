import type { BrowserContext, Page } from 'playwright-core';
import { compile, describeJvm, java, weirkeeper } from '../../packages/recorder-jvm/test/jvm.ts';
import { scratch, serveHeron, startHeron, until, type ServedHeron } from '../run-heron.ts';
import { choose, openBrowser, openPage } from './browser.ts';

let context: BrowserContext;
let page: Page;
let address = '';
let server: ServedHeron;

beforeAll(async () => {
  server = await serveHeron();
  ({ address } = server);
  context = await openBrowser(server);
  ({ page } = await openPage(context));
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

test('a recorded JVM is judged, and its site opens with type, line and count', async () => {
  await page.goto(address);
  await page.locator('[data-test=samples] button', { hasText: 'Weirkeeper with its faults' }).click();
  await page.locator('[data-test=verdict][data-kind=growing]').waitFor();
  await page.locator('[data-test=growth-sites] tbody button').first().click();
  expect(await page.locator('[data-test=site-name]').innerText()).toBe('Weirkeeper.Schedule.<init>');
  const drawer = await page.locator('[data-test=drawer]').innerText();
  expect(drawer).toMatch(/Weirkeeper\.java:\d+ · double\[\]/);
  expect(drawer).toMatch(/objects\s+[\d,]+ ± [\d,]+, 784 B each/);
  expect(drawer).toContain('with the line that was running');
});

test('"Who allocates?" names what the objects are, and its sum agrees with the collections', async () => {
  await page.getByRole('link', { name: /Who allocates/ }).click();
  const table = page.locator('[data-test=alloc-sites]');
  await table.waitFor();
  expect(await table.locator('thead').innerText()).toContain('mostly');
  expect(await table.locator('tbody tr.row').first().innerText()).toMatch(/Weirkeeper\.report/);
  const line = await page.locator('.line').innerText();
  const [sampled, measured] = [/([\d.]+) GiB ± \d+ MiB from/, /collections measured ([\d.]+) GiB/].map((pattern) =>
    Number(pattern.exec(line)![1]),
  );
  expect(Math.abs(sampled! / measured! - 1)).toBeLessThan(0.05);
});

describeJvm('a JVM under recording', () => {
  let recorded: ReturnType<typeof startHeron>;

  afterAll(async () => {
    recorded.child.kill('SIGTERM');
    await recorded.end;
  });

  test('is followed live, and does what the page asks', async () => {
    recorded = startHeron(
      [
        'record',
        '--server',
        `${address}/?token=${server.token}`,
        '--id',
        'weirs',
        '--',
        java(),
        '-Xmx64m',
        '-cp',
        compile(weirkeeper),
        'Weirkeeper',
        '120',
      ],
      { BRISK_HERON_DATA: scratch() },
    );
    const lines = async (): Promise<string> => (await server.ask('/api/streams/weirs')).text();
    await until('lines', async () => (await lines()).includes('"bytes"'));
    await page.goto(`${address}/recording/live-weirs/growth`);
    await page.getByRole('button', { name: 'stop births' }).click();
    await page.getByRole('button', { name: 'watch births' }).waitFor();
    await page.getByRole('button', { name: 'watch births' }).click();
    await page.getByRole('button', { name: 'stop births' }).waitFor();
    await choose(page.getByTitle('Mean distance of samples'), String(64 * 1024));
    await page.locator('.name', { hasText: 'every 64 KiB' }).waitFor();
    await page.getByRole('button', { name: 'collect now' }).click();
    await page.getByRole('link', { name: /collecting cost/ }).click();
    await page.getByText(/forced by the recorder, left out/).waitFor();
  });
});
