import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync, gzipSync } from 'node:zlib';
import type { BrowserContext, Page } from 'playwright-core';
import { ROOT, scratch, serveHeron, until, type ServedHeron } from '../run-heron.ts';
import { downloaded, openBrowser, openPage } from './browser.ts';

const LOGS = join(ROOT, 'examples/logs');
let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let address = '';

beforeAll(async () => {
  server = await serveHeron();
  ({ address } = server);
  context = await openBrowser(null);
  ({ page } = await openPage(context));
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

const stored = (of: Page): Promise<{ rows: number; chunks: number }> =>
  of.evaluate(
    () =>
      new Promise((resolve, reject) => {
        const opening = indexedDB.open('brisk-heron');
        opening.onerror = () => reject(new Error('not opened'));
        opening.onsuccess = () => {
          const reading = opening.result.transaction(['recordings', 'chunks']);
          const [rows, chunks] = [reading.objectStore('recordings').count(), reading.objectStore('chunks').count()];
          reading.oncomplete = () => {
            opening.result.close();
            resolve({ rows: rows.result, chunks: chunks.result });
          };
        };
      }),
  );

test('who does not know the token is asked for it, and is not asked again', async () => {
  await page.goto(`${address}/recording/nothing/growth`);
  await page.getByRole('heading', { name: 'Who are you?' }).waitFor();
  await page.getByLabel('Token').fill('a guess');
  await page.getByRole('button', { name: 'Open' }).click();
  await page.getByRole('heading', { name: 'Who are you?' }).waitFor();
  await page.getByLabel('Token').fill(server.token);
  await page.getByRole('button', { name: 'Open' }).click();
  await page.locator('[data-test=failure]').filter({ hasText: 'not in this browser' }).waitFor();
  expect(page.url()).not.toContain('token');
  await page.goto(address);
  await page.locator('[data-test=samples] button').first().waitFor();
  expect(await page.evaluate(() => document.cookie)).toBe('');
});

test('what the browser holds and may hold is told, and it is asked to keep it', async () => {
  await page
    .locator('[data-test=store]')
    .filter({ hasText: /holds [\d.]+ [KMG]?i?B for this page and may hold [\d.]+ [GT]iB/ })
    .waitFor();
});

test('an export that is damaged is opened as far as it is good, and that is said beside the verdict and on the list', async () => {
  await page.locator('[data-test=file]').setInputFiles([join(LOGS, 'weirkeeper-g1.log')]);
  await page.locator('[data-test=verdict] button').first().waitFor();
  await page.goto(address);
  const button = page.locator('[data-test=recording-row]').first().getByRole('button', { name: 'export' });
  const download = await downloaded(page, () => button.click());
  const bytes = gunzipSync(readFileSync((await download.path())!));
  const place = bytes.indexOf(10) + 1 + 130_000;
  bytes[place] = bytes[place]! ^ 0x20;
  const file = join(scratch(), 'damaged.heron');
  writeFileSync(file, gzipSync(bytes));
  await page.locator('[data-test=file]').setInputFiles([file]);
  await page
    .locator('[data-test=missing]')
    .filter({ hasText: /first 64\.0 KiB of [\d.]+ [KM]iB are good/ })
    .waitFor();
  await page.locator('[data-test=verdict] button').first().waitFor();
  await page.reload();
  await page
    .locator('[data-test=missing]')
    .filter({ hasText: /first 64\.0 KiB/ })
    .waitFor();
  await page.goto(address);
  await page.locator('[data-test=row-missing]').filter({ hasText: 'Of a part only' }).waitFor();
});

test('an import that dies with its page is a recording of a part, and says so', async () => {
  const file = join(scratch(), 'long.log');
  writeFileSync(file, readFileSync(join(LOGS, 'weirkeeper-parallel.log'), 'utf8').repeat(250));
  const second = await openPage(context);
  await second.page.goto(address);
  await second.page.locator('[data-test=samples] button').first().waitFor();
  const before = await stored(page);
  await second.page.locator('[data-test=file]').setInputFiles([file]);
  await until('some of it', async () => (await stored(page)).chunks > before.chunks + 3);
  await second.page.close();
  await page.goto(address);
  const row = page.locator('[data-test=recording-row]', { hasText: 'long' });
  await row.filter({ hasText: /The import was broken off after [\d.]+ MiB/ }).waitFor();
  await row.locator('a').click();
  await page.locator('[data-test=missing]').filter({ hasText: 'broken off' }).waitFor();
  await page.locator('[data-test=verdict] button').first().waitFor();
});

describe('a live recording', () => {
  const hello =
    '{"k":"hello","schema":"brisk-heron/stream@1","h":"1","epochMs":1800000000000,"program":"sluice","runtime":"a runtime of its own 1.0"}\n';
  let sent = 0;
  const send = async (text: string): Promise<void> => {
    const response = await server.ask(`/api/streams/two-tabs/lines?offset=${sent}`, {
      method: 'POST',
      headers: { 'content-type': 'application/x-ndjson' },
      body: text,
    });
    sent = ((await response.json()) as { bytes: number }).bytes;
  };
  const size = (n: number): string => `{"k":"size","h":"1","t":${n * 1000},"used":${4_000_000 + n}}\n`;

  test('that is deleted in another tab tells so, and leaves nothing that comes back', async () => {
    await send(hello + size(1));
    await page.goto(`${address}/recording/live-two-tabs/growth`);
    await page.locator('[data-test=link]').filter({ hasText: 'recording' }).waitFor();
    const second = await openPage(context);
    await second.page.goto(address);
    await second.page
      .locator('[data-test=recording-row]', { hasText: 'sluice' })
      .getByRole('button', { name: 'delete' })
      .click();
    await second.page.locator('[data-test=delete]').click();
    await second.page.locator('[data-test=recording-row]', { hasText: 'sluice' }).waitFor({ state: 'detached' });
    const after = await stored(second.page);
    await send(size(2) + size(3));
    await page.getByText('this recording was deleted: what arrives is shown and not kept').waitFor();
    await send(size(4));
    await until('what came', async () => (await page.locator('[data-test=link]').innerText()).includes('0:04'));
    expect(await stored(second.page)).toEqual(after);
    await second.page.close();
  });

  test('in which nothing spoke says so at its end', async () => {
    await page.goto(`${address}/recording/live-silent/growth`);
    await page.getByText("Waiting for the program's first lines").waitFor();
    await server.ask('/api/streams/silent/end', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: '{"exitCode":4,"signal":null}',
    });
    await page.locator('[data-test=silent]').filter({ hasText: 'ended with exit code 4' }).waitFor();
  });
});
