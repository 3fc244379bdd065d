import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { BrowserContext, Page } from 'playwright-core';
import { KNOWN, keyOf, knownStream, type KnownObject } from '../known-recording.ts';
import { scratch, serveHeron, type ServedHeron } from '../run-heron.ts';
import { openBrowser, openPage } from './browser.ts';

/** What the objects of the known recording can be charged to. */
export type Charge = keyof typeof keyOf;

/** A page on which the known recording was imported; whoever opens it closes the browser and stops the server. */
export async function openKnown(): Promise<{
  server: ServedHeron;
  context: BrowserContext;
  page: Page;
  errors: string[];
}> {
  const server = await serveHeron();
  const context = await openBrowser(server);
  const { page, errors } = await openPage(context);
  // Only rows in sight are in the document: here all of them are.
  await page.setViewportSize({ width: 1280, height: 2400 });
  const file = join(scratch(), 'known.ndjson');
  writeFileSync(file, knownStream());
  await page.goto(server.address);
  await page.locator('[data-test=file]').setInputFiles([file]);
  return { server, context, page, errors };
}

/** Sums of the known objects by what they are charged to. */
export function truth(
  charge: Charge,
  chosen: (object: KnownObject) => boolean,
  value: (object: KnownObject) => number,
): Record<string, number> {
  const sums: Record<string, number> = {};
  for (const object of KNOWN.filter(chosen))
    sums[keyOf[charge](object)] = (sums[keyOf[charge](object)] ?? 0) + value(object);
  return sums;
}

/** The bytes of a known object. */
export const bytes = (object: KnownObject): number => object.bytes;

/** Types into the find field. */
export async function findOn(page: Page, text: string): Promise<void> {
  await page.locator('[data-test=find] input').fill(text);
  await page.keyboard.press('Escape');
}
