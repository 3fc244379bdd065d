import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { BrowserContext, Page } from 'playwright-core';
import { freePort, ROOT, scratch, serveHeron, until, type ServedHeron } from '../run-heron.ts';
import { choose, downloaded, openBrowser, openPage } from './browser.ts';

const LOGS = join(ROOT, 'examples/logs');
const data = scratch();
let port = 0;
let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let errors: string[];
let address = '';

// On one port and over the same data, so that it can come back.
const serve = async (): Promise<void> => {
  server = await serveHeron({ port, data });
};

beforeAll(async () => {
  port = await freePort();
  await serve();
  ({ address } = server);
  context = await openBrowser(server);
  ({ page, errors } = await openPage(context));
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

async function openSample(): Promise<void> {
  await page.goto(address);
  await page.locator('[data-test=samples] button', { hasText: 'leak' }).click();
  await page.locator('[data-test=growth-sites] tbody button').first().waitFor();
}

test('a file dropped anywhere on the first page is imported', async () => {
  await page.goto(address);
  const transfer = await page.evaluateHandle(
    (text) => {
      const carried = new DataTransfer();
      carried.items.add(new File([text], 'dropped.log'));
      return carried;
    },
    readFileSync(join(LOGS, 'weirkeeper-serial.log'), 'utf8'),
  );
  await page.locator('[data-test=recordings]').dispatchEvent('drop', { dataTransfer: transfer });
  await page.waitForURL(/\/recording\//);
  await page
    .locator('[data-test=verdict]')
    .filter({ hasText: /Growing/ })
    .waitFor();
});

test('the wheel zooms around the pointer, and one click shows all again', async () => {
  await openSample();
  const ribbon = page.locator('[data-test=ribbon]');
  const box = (await ribbon.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + 80);
  // All at once, as they come on a machine that is slow: each counts.
  await ribbon.evaluate(
    (element, clientX) => {
      for (let n = 0; n < 6; n++)
        element.dispatchEvent(new WheelEvent('wheel', { deltaY: -120, clientX, bubbles: true, cancelable: true }));
    },
    box.x + box.width / 2,
  );
  await until('a closer window', async () =>
    /from 0:[23]\d to 0:[456]\d/.test((await ribbon.getAttribute('aria-label'))!),
  );
  await page.mouse.wheel(0, -120);
  await until('closer still', async () => /from 0:3\d to 0:5\d/.test((await ribbon.getAttribute('aria-label'))!));
  await page.getByRole('button', { name: 'show all' }).click();
  await until('all of it', async () => /from 0:00 to 1:3\d/.test((await ribbon.getAttribute('aria-label'))!));
});

test('tables sort, charts turn into tables, and the find field filters', async () => {
  await page.getByRole('link', { name: /Who allocates/ }).click();
  const table = page.locator('[data-test=alloc-sites]');
  await table.waitFor();
  expect(await table.locator('tbody tr.row').first().innerText()).toContain('parseReading');
  await table.getByRole('button', { name: 'kept' }).click();
  expect(await table.locator('tbody tr.row').first().innerText()).toContain('subscribe');
  expect(await table.locator('th[aria-sort=descending]').innerText()).toContain('kept');
  await page.locator('[data-test=find] input').fill('wire');
  await until('only sites of that file', async () =>
    (await table.locator('tbody tr.row').allInnerTexts()).every((text) => text.includes('wire.js')),
  );
  await page.locator('[data-test=find] input').fill('no such site');
  await table.getByText('Nothing here matches').waitFor();
  await page.locator('[data-test=find] input').fill('');
  await page.getByRole('link', { name: /growing/ }).click();
  await page.getByRole('button', { name: 'as a table' }).click();
  await page.getByRole('region', { name: 'Floor, as a table' }).waitFor();
  await page.getByRole('region', { name: 'Floor, as a table' }).locator('tbody tr.row').nth(3).waitFor();
});

test('charging by site shows the frame that allocates', async () => {
  await page.getByRole('link', { name: /Who allocates/ }).click();
  const named = async (): Promise<string[]> => page.locator('[data-test=alloc-sites] tbody tr.row').allInnerTexts();
  await choose(page.locator('[data-test=charge]'), 'file');
  await until('files', async () => (await named()).some((text) => /^\S*wire\.js/.test(text)));
  await choose(page.locator('[data-test=charge]'), 'site');
  await until('sites', async () => (await named()).some((text) => text.startsWith('parseReading wire.js:2')));
  await choose(page.locator('[data-test=charge]'), 'ownFrame');
});

test('a click on the ribbon shows what lived, a band opens its own, and two moments are compared', async () => {
  await openSample();
  const ribbon = (await page.locator('[data-test=ribbon]').boundingBox())!;
  await page.mouse.move(ribbon.x + ribbon.width * 0.8, ribbon.y + 130);
  await page
    .locator('[data-test=strata-tip]')
    .filter({ hasText: /^born \d:\d\d\.\d – \d:\d\d\.\d: .* lives at 1:1/ })
    .waitFor();
  await page.mouse.click(ribbon.x + ribbon.width * 0.8, ribbon.y + 130);
  const moment = page.locator('[data-test=moment]');
  await moment.filter({ hasText: /What lived at 1:1\d\.\d[\s\S]*, born/ }).waitFor();
  await moment.getByRole('button', { name: 'every age' }).click();
  await moment.locator('[data-test=bands] tbody tr').nth(3).waitFor();
  await moment.locator('[data-test=content] tbody tr', { hasText: 'subscribe' }).waitFor();
  await moment.getByLabel('Name of the moment').fill('late');
  await moment.getByRole('button', { name: 'keep this moment' }).click();
  await moment.getByRole('button', { name: 'drop it' }).waitFor();
  await page.mouse.click(ribbon.x + ribbon.width * 0.4, ribbon.y + 60);
  await moment.filter({ hasText: /What lived at 0:3/ }).waitFor();
  await choose(page.locator('[data-test=against]'), { index: 1 });
  await moment.locator('[data-test=changes] tbody', { hasText: /subscribe[\s\S]*\+[\d.]+ MiB/ }).waitFor();
  await page.reload();
  await page.locator('[data-test=growth-sites] tbody button').first().waitFor();
  await page.locator('path.kept title', { hasText: 'late' }).waitFor({ state: 'attached' });
});

test('a limit and a settle time that are typed hold, and are kept', async () => {
  await page.locator('.key button', { hasText: '304 MiB' }).click();
  await page.getByLabel('Limit').fill('64 MiB');
  await page.getByLabel('Limit').press('Enter');
  await page
    .locator('[data-test=verdict]')
    .filter({ hasText: /64(\.0+)? MiB limit in about/ })
    .waitFor();
  await page.getByTitle(/^duration/).click();
  await page.getByRole('textbox', { name: 'Settle time' }).fill('many');
  await page.getByRole('textbox', { name: 'Settle time' }).press('Enter');
  await page.locator('input[aria-invalid=true]').waitFor();
  await page.getByRole('textbox', { name: 'Settle time' }).fill('20 s');
  await page.getByRole('textbox', { name: 'Settle time' }).press('Enter');
  await page.getByText('older than 20.0 s').first().waitFor();
  await page.reload();
  await page
    .locator('[data-test=verdict]')
    .filter({ hasText: /64(\.0+)? MiB limit in about/ })
    .waitFor();
  await page.getByText('older than 20.0 s').first().waitFor();
});

test('a floor point is a way to what lived then', async () => {
  await page.getByRole('button', { name: 'as a table' }).click();
  await page.getByRole('region', { name: 'Floor, as a table' }).locator('tbody button').nth(3).click();
  await page.locator('[data-test=moment]').waitFor();
  await page.getByRole('button', { name: 'as a chart' }).click();
});

test('call paths open by keyboard along the heaviest way, hang as a picture, and tables are saved', async () => {
  await page.getByRole('link', { name: /Who allocates/ }).click();
  const saved = await downloaded(page, () => page.locator('[data-test=alloc-sites] [data-test=csv]').click());
  const lines = readFileSync((await saved.path())!, 'utf8')
    .trim()
    .split('\n');
  expect(lines[0]).toMatch(/^own frame,allocated \(bytes\),allocated \(bytes\) ±,share/);
  expect(lines.some((line) => /^subscribe alerts\.js:14,\d/.test(line))).toBe(true);
  await page.getByRole('button', { name: 'as call paths' }).click();
  const outline = page.locator('[data-test=outline]');
  await outline.locator('.row', { hasText: 'parseReading' }).first().waitFor();
  await choose(page.locator('[data-test=direction]'), 'allocation');
  await outline.locator('[aria-level="1"]').nth(3).waitFor();
  await outline.focus();
  await page.keyboard.press('End');
  await page.keyboard.press('Home');
  await outline.locator('.row.active[aria-level="1"]').waitFor();
  const open = (): Promise<number> => outline.locator('[aria-expanded=true]').count();
  while ((await outline.locator('.row.active[aria-expanded]').count()) === 0) await page.keyboard.press('ArrowDown');
  const before = await open();
  await page.keyboard.press(
    (await outline.locator('.row.active[aria-expanded=true]').count()) > 0 ? 'ArrowLeft' : 'ArrowRight',
  );
  await until('one more or one less is open', async () => (await open()) !== before);
  await page.keyboard.press('w');
  await until(
    'the heaviest way is open',
    async () => (await outline.locator('.row.active[aria-expanded=true]').count()) > 0,
  );
  await page.getByRole('button', { name: 'as a picture' }).click();
  const picture = page.locator('[data-test=icicle]');
  await picture.locator('rect').nth(2).waitFor();
  await picture.focus();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'all of it', exact: true }).click();
  await choose(page.locator('[data-test=fate]'), 'kept');
  await until('only what is kept', async () => !(await picture.textContent())!.includes('parseReading'));
  await choose(page.locator('[data-test=fate]'), 'all');
  await page.getByRole('button', { name: 'by size' }).click();
  await page.locator('[data-test=sizes] tbody tr.row', { hasText: 'parseReading' }).first().waitFor();
  await page.getByRole('button', { name: 'as a table' }).click();
});

test('the ledger scrolls over every event, goes to a time and from collection to collection', async () => {
  await page.getByRole('link', { name: /What happened, exactly/ }).click();
  const ledger = page.locator('[data-test=ledger]');
  await ledger.locator('.row').first().waitFor();
  const first = async (): Promise<string> => ledger.locator('.row').first().innerText();
  await page.locator('[data-test=jump] input').fill('0:40');
  await page.locator('[data-test=jump] input').press('Enter');
  await until('the first line at forty seconds', async () => /^0:4\d\./.test(await first()));
  await ledger.focus();
  await page.keyboard.press('c');
  await until('a collection', async () => /young|whole/.test(await first()));
  const at = await first();
  await page.keyboard.press('c');
  await until('the next collection', async () => (await first()) !== at && /young|whole/.test(await first()));
  await page.keyboard.press('End');
  await until('the last lines', async () => /1:[23]\d\.\d{3}/.test(await ledger.locator('.row').last().innerText()));
  await ledger.evaluate((element) => {
    element.scrollTop = 0;
  });
  await until('the first lines', async () => /^0:0\d\./.test(await first()));
  await page.locator('[data-test=jump] input').fill('noon');
  await page.locator('[data-test=jump] input').press('Enter');
  await page.locator('[data-test=jump] input[aria-invalid=true]').waitFor();
});

test('rules for own code are typed, hold for the charge, and are kept', async () => {
  await page.getByRole('link', { name: /Who allocates/ }).click();
  const first = page.locator('[data-test=alloc-sites] tbody tr.row').first();
  await until('the parser', async () => (await first.innerText()).includes('parseReading'));
  await page.locator('[data-test=own]').click();
  await page.getByLabel('Rules for your own code').fill('src/, !src/wire.js');
  await page.keyboard.press('Enter');
  await until("the parser's caller", async () => (await first.innerText()).startsWith('receive tidewatch.js'));
  await page.reload();
  await page.getByText('by your rules').waitFor();
  await page.locator('[data-test=own]').click();
  await page.getByLabel('Rules for your own code').fill('');
  await page.keyboard.press('Enter');
  await page.getByText('by usual rules').waitFor();
});

test('night colours stay over a reload', async () => {
  await page.getByRole('button', { name: 'night colours' }).click();
  await page.reload();
  await page.locator('.v-theme--night').first().waitFor();
  await page.getByRole('button', { name: 'day colours' }).click();
});

test('an import that is cancelled leaves nothing behind', async () => {
  const file = join(scratch(), 'long.log');
  writeFileSync(file, readFileSync(join(LOGS, 'weirkeeper-g1.log'), 'utf8').repeat(300));
  await page.goto(address);
  await page.locator('[data-test=recording-row]').first().waitFor();
  const before = await page.locator('[data-test=recording-row]').count();
  await page.locator('[data-test=file]').setInputFiles([file]);
  await page.getByRole('button', { name: 'Cancel' }).click();
  await page.getByRole('button', { name: 'Cancel' }).waitFor({ state: 'detached' });
  await page.reload();
  await page.locator('[data-test=recording-row]').first().waitFor();
  expect(await page.locator('[data-test=recording-row]').count()).toBe(before);
});

describe('a stream written by hand', () => {
  const lines = [
    '{"k":"hello","schema":"brisk-heron/stream@1","h":"1","epochMs":1800000000000,"program":"sluice","runtime":"a runtime of its own 1.0"}\n',
    ...Array.from(
      { length: 20 },
      (_, n) =>
        `{"k":"gc","h":"1","t":${n * 3000},"ms":8,"scope":"whole","label":"sweep","before":9000000,"after":${4_000_000 + n * 300_000}}\n`,
    ),
  ];
  let sent = 0;

  async function send(count: number): Promise<void> {
    const batch = lines.splice(0, count).join('');
    const response = await server.ask(`/api/streams/by-hand/lines?offset=${sent}`, {
      method: 'POST',
      headers: { 'content-type': 'application/x-ndjson' },
      body: batch,
    });
    expect(response.status).toBe(200);
    sent = ((await response.json()) as { bytes: number }).bytes;
  }

  test('may be opened before it begins, and is shown as it comes', async () => {
    await page.goto(`${address}/recording/live-by-hand/growth`);
    await page.getByText("Waiting for the program's first lines").waitFor();
    await send(6);
    await page
      .locator('[data-test=verdict]')
      .filter({ hasText: /Unclear yet/ })
      .waitFor();
    expect(await page.locator('header').innerText()).toContain('sluice');
  });

  test('survives the server, and goes on where it broke', async () => {
    await server.stop('SIGKILL');
    await page.locator('[data-test=link]').filter({ hasText: 'server not reached' }).waitFor({ timeout: 15_000 });
    await serve();
    await send(9);
    await page.locator('[data-test=verdict][data-kind=growing]').waitFor({ timeout: 20_000 });
  });

  test('is stored once, byte for byte, though the page was loaded anew', async () => {
    await page.reload();
    await page.locator('[data-test=verdict][data-kind=growing]').waitFor();
    await send(6);
    await server.ask('/api/streams/by-hand/end', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: '{"exitCode":0,"signal":null}',
    });
    await page.locator('[data-test=link]').filter({ hasText: 'ended after 0:57' }).waitFor({ timeout: 15_000 });
    await page.getByRole('link', { name: 'All recordings' }).click();
    await page.locator('[data-test=recording-row]', { hasText: /sluice[\s\S]*Growing/ }).waitFor();
    const stored = await page.evaluate(
      () =>
        new Promise<string>((resolve) => {
          const opening = indexedDB.open('brisk-heron');
          opening.onsuccess = () => {
            const all = opening.result
              .transaction('chunks')
              .objectStore('chunks')
              .index('recordingId')
              .getAll('live-by-hand');
            all.onsuccess = () =>
              resolve(
                (all.result as { bytes: Uint8Array }[]).map(({ bytes }) => new TextDecoder().decode(bytes)).join(''),
              );
          };
        }),
    );
    expect(stored).toBe(readFileSync(join(data, 'streams', 'by-hand.ndjson'), 'utf8'));
    expect(stored.length).toBe(sent);
  });
});

test('but for the lost server, no error was printed', () => {
  expect(errors.filter((text) => !/WebSocket|ERR_CONNECTION|Failed to (?:fetch|load resource)/.test(text))).toEqual([]);
});
