/** Takes the pictures of docs/screenshots/ anew, from the sample recordings: `npm run screenshots`. */
import { spawn } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from 'playwright-core';
import { build, install, root } from './bootstrap.mjs';

install({ loud: true });
build({ loud: true, page: true });
const PORT = 4599;
const address = `http://127.0.0.1:${PORT}`;
const server = spawn(
  process.execPath,
  [
    join(root, 'scripts', 'heron.mjs'),
    'serve',
    '--port',
    String(PORT),
    '--samples',
    join(root, 'examples', 'recordings'),
  ],
  {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, BRISK_HERON_DATA: mkdtempSync(join(tmpdir(), 'heron-pictures-')) },
  },
);
// Its first line is the address with the token, which a browser needs once.
const entrance = await new Promise((up) => server.stdout.once('data', (line) => up(String(line).trim())));
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--headless', '--no-sandbox', '--disable-gpu'],
});

async function openSample(colorScheme, sample = 'leak', withSite = true) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme });
  const page = await context.newPage();
  await page.goto(entrance);
  await page.locator('[data-test=samples] button', { hasText: sample }).click();
  await page.locator('[data-test=growth-sites] tbody tr.row').first().waitFor();
  if (!withSite) return page;
  await page.locator('[data-test=growth-sites] tbody button').first().click();
  await page.locator('[data-test=site-name]').waitFor();
  return page;
}

async function choose(list, value) {
  await list.click();
  await list.page().locator(`.v-overlay--active [data-value="${value}"]`).click();
}

const take = async (page, name) => {
  await page.waitForTimeout(600);
  await page.screenshot({ path: join(root, 'docs', 'screenshots', `${name}.png`) });
};

const weirs = await openSample('light', 'Weirkeeper with its faults');
await take(weirs, 'jvm');
const page = await openSample('light');
await take(page, 'growth');
await page.getByRole('button', { name: 'close' }).click();
await page.getByRole('link', { name: /collecting cost/ }).click();
await page.locator('[data-test=pause-count]').waitFor();
await take(page, 'collections');
await page.getByRole('link', { name: /Who allocates/ }).click();
await page.locator('[data-test=alloc-sites] tbody button', { hasText: 'parseReading' }).click();
await page.locator('[data-test=site-name]').waitFor();
await take(page, 'sites');
await weirs.getByRole('button', { name: 'close' }).click();
await weirs.getByRole('link', { name: /Who allocates/ }).click();
await weirs.getByRole('button', { name: 'as call paths' }).click();
await weirs.locator('[data-test=outline] .row').first().waitFor();
await take(weirs, 'paths');
await weirs.getByRole('button', { name: 'as a picture' }).click();
await weirs.locator('[data-test=icicle] rect').first().waitFor();
await take(weirs, 'icicle');
await weirs.getByRole('button', { name: 'by size' }).click();
await choose(weirs.locator('[data-test=charge]'), 'type');
await weirs.locator('[data-test=sizes] tbody tr.row').first().waitFor();
await take(weirs, 'sizes');
await choose(weirs.locator('[data-test=charge]'), 'ownFrame');
await weirs.getByRole('button', { name: 'as churn' }).click();
await weirs.locator('[data-test=churn] tbody tr.row').first().waitFor();
await weirs.locator('[data-test=find] input').fill('size>=24 !type=int[]');
await weirs.keyboard.press('Escape');
await take(weirs, 'churn');
await weirs.locator('[data-test=find] input').fill('');
await weirs.getByRole('button', { name: 'as a table' }).click();
await weirs.getByRole('link', { name: /What happened, exactly/ }).click();
await weirs.locator('[data-test=jump] input').fill('0:30');
await weirs.locator('[data-test=jump] input').press('Enter');
await weirs.locator('[data-test=ledger] .row').first().waitFor();
await take(weirs, 'ledger');
await weirs.getByRole('link', { name: /What survives/ }).click();
await weirs.getByRole('button', { name: 'by birth and age' }).click();
await weirs.locator('[data-test=birth-age]').waitFor();
await take(weirs, 'births');
const lasting = await openSample('light', 'window', false);
await lasting.getByRole('link', { name: /What survives/ }).click();
await lasting.locator('[data-test=survival-keys] tbody tr.row').first().waitFor();
await take(lasting, 'survival');
const both = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
await both.goto(entrance);
await both.locator('[data-test=compare-samples]').click();
await both.locator('[data-test=figure-changes] tbody tr.row').first().waitFor();
await take(both, 'changes');
const burst = await openSample('light', 'spectrum', false);
await burst.mouse.click(760, 170);
await burst.locator('[data-test=moment]').waitFor();
await take(burst, 'moment');
await page.goto(address);
await page.locator('[data-test=file]').setInputFiles([join(root, 'examples', 'logs', 'weirkeeper-parallel.log')]);
await page.locator('[data-test=verdict] button').first().waitFor();
await take(page, 'log');
await page.getByRole('link', { name: /collecting cost/ }).click();
await page.locator('[data-test=pause-max]').click();
await page.locator('[data-test=logged]').waitFor();
await page.locator('[data-test=findings] .v-expansion-panel-title').first().click();
await take(page, 'findings');
await page.goto(address);
await page.locator('[data-sample="weirkeeper-with-an-inventory.heron"]').click();
await page.getByRole('link', { name: /Why does it stay/ }).click();
await page.locator('[data-test=held] tbody button').first().waitFor();
await page.locator('[data-test=held-by]').click();
await page.locator('[data-value=ownFrame]').click();
await page.locator('[data-test=held] tbody button', { hasText: 'Weirkeeper.Schedule.<init>' }).first().click();
await page.locator('[data-test=held-sentence]').waitFor();
await take(page, 'holding');
await page.goto(address);
await page.locator('[data-test=samples] button', { hasText: 'Tidewatch, fixed' }).click();
await page.locator('[data-test=verdict] button').first().waitFor();
await page.goto(address);
await page.locator('[data-test=recording-row]').nth(2).waitFor();
await take(page, 'home');
await take(await openSample('dark'), 'growth-night');

await browser.close();
server.kill('SIGTERM');
