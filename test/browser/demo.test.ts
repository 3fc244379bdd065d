import { spawn, type ChildProcess } from 'node:child_process';
import type { BrowserContext, Page } from 'playwright-core';
import { freePort, ROOT, scratch, until } from '../run-heron.ts';
import { openBrowser, openPage } from './browser.ts';

let demo: ChildProcess;
let context: BrowserContext;
let page: Page;
let errors: string[];
let address = '';
let output = '';

beforeAll(async () => {
  const port = await freePort();
  demo = spawn('npm', ['run', 'demo'], {
    cwd: ROOT,
    detached: true,
    stdio: ['ignore', 'pipe', 'pipe'],
    env: { ...process.env, NODE_OPTIONS: '', BRISK_HERON_PORT: String(port), BRISK_HERON_DATA: scratch() },
  });
  for (const stream of [demo.stdout!, demo.stderr!])
    stream.on('data', (data: Buffer) => {
      output += data.toString();
    });
  address = await until('the address of the demo', async () => /The demo is at (\S+)/.exec(output)?.[1], 200_000).catch(
    (error: Error) => {
      throw new Error(`${error.message}; it said ${output}`);
    },
  );
  context = await openBrowser(null);
  ({ page, errors } = await openPage(context));
  await page.goto(address);
});

afterAll(async () => {
  await context?.close();
  // One that ended by itself is not waited for.
  if (demo.pid === undefined || demo.exitCode !== null || demo.signalCode !== null) return;
  const ended = new Promise((resolve) => demo.once('close', resolve));
  process.kill(-demo.pid, 'SIGTERM');
  await ended;
});

test('the running program is shown live, with its pauses', async () => {
  await page
    .locator('[data-test=link]')
    .filter({ hasText: /^recording 0:/ })
    .waitFor({ timeout: 60_000 });
  // The first lines may come a moment after the link: until then there is nothing to draw.
  await until('pauses in the ribbon', async () =>
    /Memory and pauses from 0:00 .* [1-9]\d* pauses drawn/.test(
      (await page.locator('[data-test=ribbon]').getAttribute('aria-label')) ?? '',
    ),
  );
});

test('after about a minute it is called growing, with one site to blame', async () => {
  await page.locator('[data-test=verdict][data-kind=growing]').waitFor({ timeout: 120_000 });
  await page
    .locator('[data-test=growth-sites] tbody tr.row', { hasText: 'subscribe' })
    .first()
    .waitFor({ timeout: 60_000 });
  await until(
    'the leaking site on top',
    async () =>
      (await page.locator('[data-test=growth-sites] tbody tr.row').first().innerText()).startsWith('subscribe'),
    60_000,
  );
  // The share is told once the site's own growth is certain, a few polls after the floor's.
  await page
    .locator('[data-test=verdict]')
    .filter({ hasText: /^\s*Growing (?:so far )?\d+(\.\d+)? MiB\/min .*from 1 site.*limit in about/ })
    .waitFor({ timeout: 120_000 });
});

test('a span is selected by dragging, and the figures are those of the span', async () => {
  const box = (await page.locator('[data-test=ribbon]').boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.45, box.y + 70);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.8, box.y + 70, { steps: 6 });
  await page.mouse.up();
  await page
    .locator('[data-test=span]')
    .filter({ hasText: /^span 0:\d\d\.\d – \d:\d\d\.\d/ })
    .waitFor();
  await page.getByRole('button', { name: 'whole recording' }).click();
  await page.locator('[data-test=span]').waitFor({ state: 'detached' });
});

test('the leaking site opens with its path and its source line', async () => {
  await page.locator('[data-test=growth-sites] tbody button', { hasText: 'subscribe' }).click();
  await page.locator('[data-test=site-name]', { hasText: 'subscribe' }).waitFor();
  expect(await page.locator('[data-test=drawer]').innerText()).toMatch(/reconnectOne[\s\S]*reconnect[\s\S]*subscribe/);
  expect(await page.locator('[data-test=source] .here').innerText()).toMatch(/14\s*subscribe\(gauge\) \{/);
});

test('a mark set on the page comes back from the program', async () => {
  await page.getByLabel('Label of the mark').fill('tide turned');
  await page.locator('[data-test=mark]').click();
  await page
    .locator('[data-test=ribbon] title', { hasText: 'tide turned' })
    .waitFor({ state: 'attached', timeout: 60_000 });
});

test('churn is named under its own question', async () => {
  await page.getByRole('link', { name: /Who allocates/ }).click();
  await until('the parser among the allocators', async () =>
    /parseReading[\s\S]*wire\.js/.test(await page.locator('[data-test=alloc-sites]').innerText()),
  );
});

test('it is kept over a reload, and no error was printed', async () => {
  await page.reload();
  await page.locator('[data-test=verdict][data-kind=growing]').waitFor({ timeout: 60_000 });
  // Leaving by the page's own link stores the verdict of that moment; a tab that is killed may leave one some seconds
  // old.
  await page.getByRole('link', { name: 'All recordings' }).click();
  await until('the verdict in the list', async () =>
    /tidewatch[\s\S]*(?:Growing|Stepping)/.test(await page.locator('[data-test=recordings]').innerText()),
  ).catch(async () => {
    throw new Error(`the list shows: ${await page.locator('[data-test=recordings]').innerText()}`);
  });
  expect(errors).toEqual([]);
});
