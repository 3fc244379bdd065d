import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type BrowserContext, type Download, type Locator, type Page } from 'playwright-core';
import { ROOT, type ServedHeron } from '../run-heron.ts';

const ARGS = [
  '--headless',
  '--no-sandbox',
  '--disable-gpu',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

/**
 * Debian's Chromium with a fresh profile that has a real store on the disk, and has been let in by the server, if one
 * is given.
 */
export async function openBrowser(
  server: Pick<ServedHeron, 'address' | 'token'> | null,
  options: { colorScheme?: 'light' | 'dark' } = {},
): Promise<BrowserContext> {
  const profile = mkdtempSync(join(tmpdir(), 'heron-profile-'));
  const context = await chromium.launchPersistentContext(profile, {
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    args: ARGS,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    ...options,
  });
  // Long enough for a machine that stands still at times.
  context.setDefaultTimeout(60_000);
  if (server !== null)
    await context.addCookies([
      {
        name: `brisk-heron-${new URL(server.address).port}`,
        value: server.token,
        url: server.address,
        httpOnly: true,
        sameSite: 'Strict',
      },
    ]);
  return context;
}

/** A page whose errors and console errors are gathered. */
export async function openPage(context: BrowserContext): Promise<{ page: Page; errors: string[] }> {
  const page = await context.newPage();
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  page.on('console', (message) => {
    if (message.type() === 'error') errors.push(message.text());
  });
  return { page, errors };
}

/** Gathers how long the page's thread was blocked, from now on. */
export async function watchLongTasks(page: Page): Promise<() => Promise<number[]>> {
  await page.evaluate(() => {
    const seen: number[] = [];
    (globalThis as { longTasks?: number[] }).longTasks = seen;
    new PerformanceObserver((list) => list.getEntries().forEach((entry) => seen.push(entry.duration))).observe({
      entryTypes: ['longtask'],
    });
  });
  return () => page.evaluate(() => (globalThis as { longTasks?: number[] }).longTasks ?? []);
}

/** What is saved after `press`; when nothing comes, the error tells what the page says. */
export async function downloaded(page: Page, press: () => Promise<void>): Promise<Download> {
  const [download] = await Promise.all([
    page.waitForEvent('download').catch(async (error: Error) => {
      throw new Error(`${error.message}\nthe page says:\n${await page.locator('body').innerText()}`);
    }),
    press(),
  ]);
  return download;
}

interface AxeResult {
  readonly violations: readonly {
    readonly id: string;
    readonly nodes: readonly { readonly html: string; readonly failureSummary: string }[];
  }[];
}

/** What axe finds wrong with the page as it stands, in words. */
export async function violations(page: Page): Promise<string[]> {
  await page.evaluate(readFileSync(join(ROOT, 'node_modules/axe-core/axe.min.js'), 'utf8'));
  const result = await page.evaluate(() => (globalThis as unknown as { axe: { run(): Promise<AxeResult> } }).axe.run());
  return result.violations.flatMap(({ id, nodes }) =>
    nodes.map(({ html, failureSummary }) => `${id}: ${html.slice(0, 120)} ${failureSummary.slice(0, 200)}`),
  );
}

/** Chooses an option of a list by its value, or by its place in it. */
export async function choose(list: Locator, option: string | { readonly index: number }): Promise<void> {
  // The list is opened by its field, of which the input is a part.
  await list.locator('xpath=ancestor-or-self::div[contains(concat(" ", @class, " "), " v-input ")]').click();
  const options = list.page().locator('.v-overlay--active [role=option]');
  const chosen =
    typeof option === 'string'
      ? list.page().locator(`.v-overlay--active [data-value="${option}"]`)
      : options.nth(option.index);
  await chosen.click();
  await options.first().waitFor({ state: 'detached' });
}
