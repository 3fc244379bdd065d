import { join } from 'node:path';
import type { BrowserContext, Page } from 'playwright-core';
import { ROOT, runHeron, serveHeron, type ServedHeron } from '../run-heron.ts';
import { openBrowser, openPage } from './browser.ts';

let context: BrowserContext;
let page: Page;
let server: ServedHeron;

beforeAll(async () => {
  server = await serveHeron();
  context = await openBrowser(server);
  ({ page } = await openPage(context));
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

const AMOUNT = /[\d.,−]+ (?:B|KiB|MiB|GiB)/g;

/** Names and the first amounts of the first rows of a table on the page. */
async function shown(table: string, amounts: number): Promise<string[]> {
  const rows = await page.locator(`[data-test=${table}] tbody tr.row`).allInnerTexts();
  return rows.slice(0, 6).map((row) => {
    const words = row.replace(/\s+/g, ' ').trim();
    return [words.split(' ')[0], ...(words.match(AMOUNT) ?? []).slice(0, amounts)].join(' ');
  });
}

/** The same of the command line's table; `columns` are those whose amounts the page shows first. */
async function asked(sample: string, measure: string, columns: readonly string[]): Promise<string[]> {
  const file = join(ROOT, 'examples/recordings', `${sample}.heron`);
  const { stdout } = await runHeron(['ask', file, '--measure', measure]);
  const [head = '', ...lines] = stdout.trimEnd().split('\n');
  const end = (column: string): number => head.indexOf(column) + column.length;
  return lines.slice(0, 6).map((line) => {
    const amounts = columns.map((column) => /\S+ \S+$/.exec(line.slice(0, end(column)))![0]);
    return [line.split(' ')[0], ...amounts].join(' ');
  });
}

test.each(['tidewatch-with-its-leak-and-churn', 'tidewatch-with-its-window', 'weirkeeper-with-its-faults'])(
  'of %s the page and heron ask say the same',
  async (sample) => {
    await page.goto(server.address);
    await page.locator(`[data-sample="${sample}.heron"]`).click();
    await page.getByRole('link', { name: /Who allocates/ }).click();
    await page.locator('[data-test=alloc-sites] tbody tr.row').first().waitFor();
    const rows = await shown('alloc-sites', 2);
    expect(rows.length).toBeGreaterThan(3);
    expect(rows).toEqual(await asked(sample, 'sites', ['allocated', 'allocated ±']));
  },
);
