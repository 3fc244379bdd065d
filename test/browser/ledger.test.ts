import { readFileSync } from 'node:fs';
import { tableFromIPC } from 'apache-arrow';
import type { BrowserContext, Download, Page } from 'playwright-core';
import { KNOWN, KNOWN_MS, ROUNDS_MS } from '../known-recording.ts';
import { until, type ServedHeron } from '../run-heron.ts';
import { downloaded } from './browser.ts';
import { bytes, findOn, openKnown, truth } from './known-page.ts';

let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let errors: string[];

beforeAll(async () => {
  ({ server, context, page, errors } = await openKnown());
  await page.locator('[data-test=verdict]').waitFor();
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

const find = (text: string): Promise<void> => findOn(page, text);

test('the ledger has every event, and kinds of them', async () => {
  await page.getByRole('link', { name: /What happened, exactly/ }).click();
  const told = (count: number): Promise<void> =>
    page.getByText(`${count.toLocaleString('en')} events in the span`).waitFor();
  const collections = 2 * (KNOWN_MS / 500 - 1);
  await told(KNOWN.length + collections + ROUNDS_MS.length);
  await find('kind=mark');
  await told(ROUNDS_MS.length);
  await find('kind=object size>1KiB');
  await told(KNOWN.filter(({ bytes: size }) => size > 1024).length);
  await find('');
});

test('the lines of the ledger are gone through by keyboard, opened, and saved', async () => {
  await find('size>1KiB');
  const big = KNOWN.filter(({ bytes: size }) => size > 1024);
  const collections = 2 * (KNOWN_MS / 500 - 1);
  await page
    .getByText(`${(big.length + collections + ROUNDS_MS.length).toLocaleString('en')} events in the span`)
    .waitFor();
  const ledger = page.locator('[data-test=ledger]');
  await ledger.focus();
  await page.keyboard.press('Home');
  const active = ledger.locator('[role=option][aria-selected=true]');
  for (let line = 0; line < 60 && !/39\.1 KiB/.test(await active.innerText()); line++) {
    const before = await active.getAttribute('id');
    await page.keyboard.press('ArrowDown');
    await until('the next line', async () => (await active.getAttribute('id')) !== before);
  }
  await page.keyboard.press('Enter');
  await page.locator('[data-test=site-name]').waitFor();
  await page.getByRole('button', { name: 'close' }).click();
  const file = await downloaded(page, () => page.locator('[data-test=ledger-csv]').click());
  const lines = readFileSync((await file.path())!, 'utf8')
    .trim()
    .split('\n')
    .slice(1)
    .map((line) => line.split(','));
  expect(lines.filter((cells) => cells[2] === 'birth').map((cells) => Number(cells[4]))).toEqual(
    big.map(({ bytes: size }) => size),
  );
  expect(lines.filter((cells) => cells[2] === 'mark').map((cells) => Number(cells[0]))).toEqual(ROUNDS_MS);
  await find('');
});

test('events are saved as Arrow files that hold the truth', async () => {
  const files: Download[] = [];
  page.on('download', (file) => files.push(file));
  await page.locator('[data-test=arrow]').click();
  await until('both files', () => Promise.resolve(files.length === 2));
  const [events, paths] = await Promise.all(
    files.map(async (file) => tableFromIPC(readFileSync((await file.path())!))),
  );
  expect(files.map((file) => file.suggestedFilename())).toEqual([
    expect.stringMatching(/-events\.arrow$/) as string,
    expect.stringMatching(/-paths\.arrow$/) as string,
  ]);
  const sums: Record<string, number> = {};
  for (const row of events!)
    if (row['kind'] === 'object')
      sums[row['own_frame'] as string] = (sums[row['own_frame'] as string] ?? 0) + (row['size_bytes'] as number);
  expect(sums).toEqual(truth('ownFrame', () => true, bytes));
  // Both heaps have the same paths.
  expect(paths!.numRows).toBe(8);
});

test('no error was printed', () => {
  expect(errors).toEqual([]);
});
