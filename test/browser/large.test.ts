import { createWriteStream } from 'node:fs';
import { once } from 'node:events';
import { join } from 'node:path';
import type { BrowserContext, Page } from 'playwright-core';
import { STREAM_SCHEMA, type StreamLine } from '../../packages/core/src/formats/stream/layout.ts';
import { seeded } from '../../packages/core/test/seeded.ts';
import { scratch, serveHeron, until, type ServedHeron } from '../run-heron.ts';
import { choose, openBrowser, openPage, watchLongTasks } from './browser.ts';

const OBJECTS = 400_000;
const TICKS = 800;
const TICK_MS = 250;
const SITES = 1500;
const TYPES = 40;

interface Truth {
  count: number;
  bytes: number;
  big: number;
  bigBytes: number;
  kept: number;
  keptBytes: number;
}

let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let errors: string[];
let truth: Truth;

beforeAll(async () => {
  server = await serveHeron();
  context = await openBrowser(server);
  ({ page, errors } = await openPage(context));
  // Only rows in sight are in the document: here all of them are.
  await page.setViewportSize({ width: 1280, height: 2400 });
  const file = join(scratch(), 'large.ndjson');
  truth = await writeLarge(file);
  await page.goto(server.address);
  await page.evaluate(() => {
    const told = new Set<string>();
    new MutationObserver(() => {
      const caption = document.querySelector('[data-test=so-far] figcaption');
      if (caption !== null) told.add(caption.textContent);
    }).observe(document.body, { subtree: true, childList: true, characterData: true });
    Object.assign(window, { told });
  });
  await page.locator('[data-test=file]').setInputFiles([file]);
  await page.getByRole('link', { name: /Who allocates/ }).click();
  await page.locator('[data-test=alloc-sites] tbody tr.row').first().waitFor();
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

test('while it was read, what had come so far was shown', async () => {
  const told = await page.evaluate(() => Array.from((window as unknown as { told: Set<string> }).told));
  expect(told[0]).toMatch(/^Used memory in the .* read so far, at most .*iB, .* collections, [\d,]+ objects$/);
});

/** Some 800,000 events: an object in twenty stays, all others die within five seconds; one in a thousand is big. */
async function writeLarge(file: string): Promise<Truth> {
  const out = createWriteStream(file);
  const random = seeded(6);
  const sums: Truth = { count: 0, bytes: 0, big: 0, bigBytes: 0, kept: 0, keptBytes: 0 };
  const add = async (line: object): Promise<void> => {
    if (!out.write(`${JSON.stringify({ h: '1.0', ...line } as StreamLine)}\n`)) await once(out, 'drain');
  };
  const numbers = <T>(length: number, of: (n: number) => T): T[] => Array.from({ length }, (_, n) => of(n));
  await add({
    k: 'hello',
    schema: STREAM_SCHEMA,
    epochMs: 1_800_000_000_000,
    program: 'tidewatch',
    runtime: 'a runtime of its own 1.0',
    collector: 'V8',
  });
  await add({ k: 'phase', t: 0, kind: 'objects' });
  await add({
    k: 'frames',
    first: 0,
    fn: numbers(SITES, (n) => `tide${n}`),
    file: numbers(SITES, (n) => `file:///srv/saltmarsh/${n % 3 === 0 ? 'node_modules/kit/' : ''}tide${n % 60}.js`),
    line: numbers(SITES, (n) => n + 1),
    col: numbers(SITES, () => 1),
  });
  await add({
    k: 'paths',
    first: 0,
    parent: numbers(SITES, (n) => (n === 0 ? -1 : Math.floor(n / 4))),
    frame: numbers(SITES, (n) => n),
  });
  await add({ k: 'types', first: 0, name: numbers(TYPES, (n) => `Reading${n}`) });
  const deaths: number[][] = numbers(TICKS + 1, () => []);
  const each = OBJECTS / TICKS;
  for (let tick = 0; tick < TICKS; tick++) {
    const [from, to] = [tick * TICK_MS, (tick + 1) * TICK_MS];
    const ids = numbers(each, (n) => tick * each + n);
    const size = ids.map((id) => (id % 1000 === 7 ? 4096 + (id % 4096) : 16 + 8 * Math.floor(random() * 30)));
    // What is born in the last half minute dies, so that nothing is too young to tell.
    const stays = ids.map((id) => id % 20 === 3 && to < (TICKS - 120) * TICK_MS);
    ids.forEach((id, n) => {
      sums.count++;
      sums.bytes += size[n]!;
      if (size[n]! > 1024) {
        sums.big++;
        sums.bigBytes += size[n]!;
      }
      if (stays[n]!) {
        sums.kept++;
        sums.keptBytes += size[n]!;
      } else deaths[Math.min(TICKS, tick + 1 + Math.floor(random() * 19))]!.push(id);
    });
    await add({
      k: 'born',
      from,
      to,
      id: ids,
      path: ids.map((id) => (id * 7) % SITES),
      size,
      at: ids.map((_, n) => from + (n * TICK_MS) / each),
      p: ids.map(() => 1),
      type: ids.map((id) => id % TYPES),
    });
    const living = sums.keptBytes + 1e6;
    if (tick % 2 === 1)
      await add({
        k: 'gc',
        t: to,
        ms: 2,
        scope: tick % 20 === 19 ? 'whole' : 'young',
        label: tick % 20 === 19 ? 'Mark-Compact' : 'Scavenge',
        before: living + 8e6,
        after: living,
      });
    await add({ k: 'died', from, to, id: deaths[tick + 1]! });
  }
  await add({ k: 'bye', t: TICKS * TICK_MS, reason: 'exit' });
  out.end();
  await once(out, 'finish');
  return sums;
}

const line = (): Promise<string> => page.locator('.view p.line').innerText();

async function find(text: string): Promise<void> {
  await page.locator('[data-test=find] input').fill(text);
  await page.keyboard.press('Escape');
}

const exactly = (bytes: number): RegExp => new RegExp(`^${bytes.toLocaleString('en')} bytes`);

/** Sums of the types on the screen, which are few, by their exact figures. */
async function sumsTo(bytes: number): Promise<void> {
  let sum = NaN;
  await until(`${bytes} bytes`, async () => {
    const titles = await page
      .locator('[data-test=alloc-sites] td.col-value')
      .evaluateAll((cells) => cells.map((cell) => cell.getAttribute('title') ?? ''));
    sum = titles.reduce((all, title) => all + Number.parseInt(title.replaceAll(',', ''), 10), 0);
    return sum === bytes;
  }).catch(() => undefined);
  expect(sum).toBe(bytes);
}

test('of hundreds of thousands of objects every find and fate is the truth, and the page stays free', async () => {
  await choose(page.locator('[data-test=charge]'), 'type');
  const blocked = await watchLongTasks(page);
  const from = Date.now();
  await sumsTo(truth.bytes);
  await find('size>1KiB');
  await sumsTo(truth.bigBytes);
  await find('fate=kept');
  await sumsTo(truth.keptBytes);
  await find('!fate=kept');
  await sumsTo(truth.bytes - truth.keptBytes);
  await find('');
  await choose(page.locator('[data-test=fate]'), 'kept');
  await sumsTo(truth.keptBytes);
  await choose(page.locator('[data-test=fate]'), 'all');
  expect((await blocked()).reduce((sum, ms) => sum + ms, 0) / (Date.now() - from)).toBeLessThan(0.5);
});

test('of more sites than are listed, the line above tells the sum of all, and the heaviest come first', async () => {
  await choose(page.locator('[data-test=charge]'), 'site');
  await until('all sites', async () => (await line()).includes(`from ${SITES} sites`));
  const shares = (
    await page
      .locator('[data-test=alloc-sites] td.col-value')
      .evaluateAll((cells) =>
        cells.map((cell) => Number.parseInt((cell.getAttribute('title') ?? '').replaceAll(',', ''), 10)),
      )
  ).slice(0, 20);
  expect(shares).toEqual([...shares].sort((a, b) => b - a));
});

test('the heaviest way opens with one key, and what is opened adds up', async () => {
  await page.getByRole('button', { name: 'as call paths' }).click();
  await choose(page.getByLabel('Measure'), 'objects');
  const outline = page.locator('[data-test=outline]');
  await outline.locator('.row').first().waitFor();
  const total = (place: number): Promise<number> =>
    outline
      .locator('.row')
      .nth(place)
      .locator('.total')
      .innerText()
      .then((text) => Number(text.replaceAll(/[ ,]/g, '')));
  await until('the root', async () => (await total(0)) === truth.count);
  await outline.focus();
  await page.keyboard.press('w');
  await until('its children', async () => (await outline.locator('.row[aria-level="2"]').count()) > 1);
  await choose(page.getByLabel('Measure'), 'bytes');
  await page.getByRole('button', { name: 'as a table' }).click();
});

test('the ledger goes to its last line, and to the big objects alone', async () => {
  await page.getByRole('link', { name: /What happened/ }).click();
  const collections = TICKS / 2;
  await page.getByText(`${(truth.count + collections).toLocaleString('en')} events in the span`).waitFor();
  const ledger = page.locator('[data-test=ledger]');
  await ledger.locator('.row').first().waitFor();
  await ledger.focus();
  await page.keyboard.press('End');
  await until('the last line', async () => /^3:20\.000\s+whole/.test(await ledger.locator('.row').last().innerText()));
  expect(await ledger.locator('.row').count()).toBeLessThan(120);
  // Keys that are faster than the answers add up.
  const lines = await ledger.locator('.row').count();
  await page.keyboard.press('Home');
  for (let pages = 0; pages < 5; pages++) await page.keyboard.press('PageDown');
  await until(
    'five pages down',
    async () => (await ledger.locator('[aria-selected=true]').getAttribute('id')) === `event-${5 * (lines - 1)}`,
  );
  await find('kind=object size>1KiB');
  await page.getByText(new RegExp(`^${truth.big} events in the span$`)).waitFor();
  await ledger.focus();
  await page.keyboard.press('Home');
  await until(
    'the first of them',
    async () => (await ledger.locator('[aria-selected=true]').getAttribute('id')) === 'event-0',
  );
  const sizes = await ledger
    .locator('.row .n[title]')
    .evaluateAll((cells) =>
      cells.map((cell) => cell.getAttribute('title')!).filter((title) => title.includes('bytes')),
    );
  expect(sizes.length).toBeGreaterThan(3);
  for (const title of sizes) expect(Number.parseInt(title.replaceAll(',', ''), 10)).toBeGreaterThan(1024);
  expect(sizes[0]).toMatch(exactly(4096 + 7));
  await find('');
});

test('growth of one span after another, in two where it takes long, is what a fresh look tells', async () => {
  await page.getByRole('link', { name: /Is it growing/ }).click();
  await page.locator('[data-test=growth-types] tbody tr.row').first().waitFor();
  const ribbon = (await page.locator('[data-test=ribbon] canvas').boundingBox())!;
  const y = ribbon.y + ribbon.height / 2;
  for (const [from, to] of [
    [0.1, 0.6],
    [0.3, 0.7],
    [0.2, 0.8],
  ] as const) {
    await page.mouse.move(ribbon.x + from * ribbon.width, y);
    await page.mouse.down();
    await page.mouse.move(ribbon.x + to * ribbon.width, y, { steps: 4 });
    await page.mouse.up();
  }
  const told = async (): Promise<string> => {
    await page.locator('[data-test=growth-types] tbody tr.row').first().waitFor();
    let last = '';
    // Until nothing changes any more: what stands beside the rows comes last.
    await until('all of it', async () => {
      const before = last;
      last = await page.locator('.view').innerText();
      return last === before && (await page.locator('.view .waits').count()) === 0;
    });
    return last;
  };
  await until('the last span', async () => /span=/.test(page.url()));
  const shown = await told();
  await page.reload();
  expect(await told()).toBe(shown);
});

test('no error was printed', () => {
  expect(errors).toEqual([]);
});
