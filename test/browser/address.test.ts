import type { BrowserContext, Page } from 'playwright-core';
import { serveHeron, until, type ServedHeron } from '../run-heron.ts';
import { openBrowser, openPage } from './browser.ts';

let server: ServedHeron;
let context: BrowserContext;
let page: Page;
let errors: string[];

beforeAll(async () => {
  server = await serveHeron();
  context = await openBrowser(server);
  ({ page, errors } = await openPage(context));
  await page.goto(server.address);
  await page.locator('[data-test=samples] button', { hasText: 'leak' }).click();
  await page.locator('[data-test=growth-sites] tbody button').first().waitFor();
});

afterAll(async () => {
  await context?.close();
  await server?.stop();
});

const members = (): Map<string, string> => new Map(new URL(page.url()).searchParams);
const addressSays = (name: string, value: string | undefined): Promise<true> =>
  until(`${name}=${value}`, async () => members().get(name) === value);
const spanText = (): Promise<string> => page.locator('[data-test=span]').innerText();

async function dragSpan(from: number, to: number): Promise<void> {
  const box = (await page.locator('[data-test=ribbon]').boundingBox())!;
  await page.mouse.move(box.x + box.width * from, box.y + 80);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * to, box.y + 80, { steps: 4 });
  await page.mouse.up();
}

test('a span, a question, a mode and a find stand in the address, and back goes through them', async () => {
  await addressSays('charge', 'ownFrame');
  await dragSpan(0.3, 0.6);
  await until('a span in the address', async () => members().has('span'));
  const span = members().get('span')!;
  await page.getByRole('link', { name: /Who allocates/ }).click();
  await page.locator('[data-test=alloc-sites]').waitFor();
  expect(members().get('span')).toBe(span);
  await page.getByRole('button', { name: 'as call paths' }).click();
  await addressSays('mode', 'paths');
  await page.locator('[data-test=find] input').fill('wire');
  await addressSays('find', 'wire');

  await page.goBack();
  await addressSays('find', undefined);
  expect(await page.locator('[data-test=find] input').inputValue()).toBe('');
  await page.goBack();
  await addressSays('mode', undefined);
  await page.locator('[data-test=alloc-sites]').waitFor();
  await page.goBack();
  await page.locator('[data-test=growth-sites]').waitFor();
  expect(members().get('span')).toBe(span);
  await page.goBack();
  await addressSays('span', undefined);
  await page.locator('[data-test=span]').waitFor({ state: 'detached' });
  for (let n = 0; n < 4; n++) await page.goForward();
  await addressSays('find', 'wire');
  await page.locator('[data-test=outline]').waitFor();
});

test('a reload, and the address in another window, show the same', async () => {
  await page.locator('[data-test=outline] [role=treeitem]').first().waitFor();
  const [shown, address] = [await spanText(), page.url()];
  await page.reload();
  await page.locator('[data-test=outline] [role=treeitem]').first().waitFor();
  expect(await spanText()).toBe(shown);
  expect(await page.locator('[data-test=find] input').inputValue()).toBe('wire');
  expect(page.url()).toBe(address);
  const other = await context.newPage();
  await other.goto(address);
  await other.locator('[data-test=outline] [role=treeitem]').first().waitFor();
  expect(await other.locator('[data-test=span]').innerText()).toBe(shown);
  await other.close();
});

test('what is selected comes back with a reload', async () => {
  await page.goto(
    `${page
      .url()
      .split('?')[0]!
      .replace(/sites$/, 'growth')}`,
  );
  await page.locator('[data-test=growth-sites] tbody button').first().click();
  const name = await page.locator('[data-test=site-name]').innerText();
  await until('a selection in the address', async () => members().get('chosen')?.startsWith('key~') === true);
  await page.reload();
  await page.locator('[data-test=site-name]').waitFor();
  expect(await page.locator('[data-test=site-name]').innerText()).toBe(name);
});

test('an address that tells of what is not there shows all of the recording, and says so', async () => {
  const bare = page.url().split('?')[0]!;
  await page.goto(`${bare}?run=99&charge=nonsense&span=9~1&heaps=x&chosen=pause~-4`);
  await page.getByText(/address tells of what is not in this recording/).waitFor();
  await page.locator('[data-test=growth-sites] tbody button').first().waitFor();
  await page.goto(`${bare}?span=99999999~999999999&window=99999999~999999999`);
  await page.locator('[data-test=growth-sites] tbody button').first().waitFor();
  await addressSays('span', undefined);
});

test('no page error came', () => {
  expect(errors).toEqual([]);
});
