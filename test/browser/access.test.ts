import type { BrowserContext, Page } from 'playwright-core';
import { serveHeron, type ServedHeron } from '../run-heron.ts';
import { choose, openBrowser, openPage, violations } from './browser.ts';

let server: ServedHeron;
let address = '';
const contexts: BrowserContext[] = [];

beforeAll(async () => {
  server = await serveHeron();
  ({ address } = server);
});

afterAll(async () => {
  for (const context of contexts) await context.close();
  await server?.stop();
});

async function openSample(colorScheme: 'light' | 'dark'): Promise<Page> {
  const context = await openBrowser(server, { colorScheme });
  contexts.push(context);
  const { page } = await openPage(context);
  await page.goto(address);
  await page.locator('[data-test=samples] button', { hasText: 'leak' }).click();
  await page.locator('[data-test=growth-sites] tbody button').first().waitFor();
  return page;
}

test.each(['light', 'dark'] as const)('axe finds nothing in any view (%s)', async (scheme) => {
  const page = await openSample(scheme);
  await page.locator('[data-test=growth-sites] tbody button').first().click();
  await page.locator('[data-test=site-name]').waitFor();
  expect(await violations(page)).toEqual([]);
  for (const [question, ready] of [
    [/collecting cost/, '[data-test=pause-count]'],
    [/Who allocates/, '[data-test=alloc-sites]'],
  ] as const) {
    await page.getByRole('link', { name: question }).click();
    await page.locator(ready).waitFor();
    expect(await violations(page)).toEqual([]);
  }
  for (const [mode, ready] of [
    ['as call paths', '[data-test=outline] .row'],
    ['as a picture', '[data-test=icicle] rect'],
    ['by size', '[data-test=sizes]'],
    ['as churn', '[data-test=churn] tbody tr.row'],
  ] as const) {
    await page.getByRole('button', { name: mode }).click();
    await page.locator(ready).first().waitFor();
    expect(await violations(page)).toEqual([]);
  }
  await page.locator('[data-test=find] input').fill('fa');
  await page.locator('[data-test=find-list] [role=option]').first().waitFor();
  expect(await violations(page)).toEqual([]);
  await page.locator('[data-test=find] input').fill('fate=gone');
  await page.keyboard.press('Escape');
  await page.getByText('expected fate=kept').waitFor();
  expect(await violations(page)).toEqual([]);
  await page.locator('[data-test=find] input').fill('');
  await page.getByRole('link', { name: /What happened, exactly/ }).click();
  await page.locator('[data-test=ledger] .row').first().waitFor();
  expect(await violations(page)).toEqual([]);
  await page.getByRole('link', { name: /growing/ }).click();
  await page.locator('[data-test=ribbon]').focus();
  await page.keyboard.press('Enter');
  await page.locator('[data-test=moment]').waitFor();
  await page.getByRole('button', { name: 'keep this moment' }).click();
  await page.locator('[data-test=ribbon]').focus();
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Enter');
  await choose(page.locator('[data-test=against]'), { index: 1 });
  await page.locator('[data-test=changes]').waitFor();
  expect(await violations(page)).toEqual([]);
  await page.goto(address);
  await page.locator('[data-test=recording-row]').first().waitFor();
  expect(await violations(page)).toEqual([]);
});

test('the keyboard alone selects a span, a site and another view', async () => {
  const page = await openSample('light');
  await page.locator('[data-test=ribbon]').focus();
  await page.keyboard.press('+');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+ArrowRight');
  await page.locator('[data-test=span]').waitFor();
  await page.keyboard.press('Escape');
  await page.locator('[data-test=span]').waitFor({ state: 'detached' });
  await page.keyboard.press('Home');
  await page.locator('[data-test=growth-sites] tbody button').first().focus();
  await page.keyboard.press('Enter');
  await page.locator('[data-test=site-name]').waitFor();
  await page.locator('[data-test=drawer] button').first().focus();
  await page.keyboard.press('Escape');
  await page.locator('[data-test=drawer]').waitFor({ state: 'detached' });
  await page.getByRole('link', { name: /Who allocates/ }).focus();
  await page.keyboard.press('Enter');
  await page.locator('[data-test=alloc-sites]').waitFor();
});
