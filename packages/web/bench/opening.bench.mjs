/**
 * Opening a recording of many objects again: out of its columns, against reading as many bytes out of the browser's
 * store, and against reading its source. `node packages/web/bench/opening.bench.mjs [OBJECTS]`.
 */
import { spawn } from 'node:child_process';
import { createWriteStream, mkdtempSync, rmSync } from 'node:fs';
import { once } from 'node:events';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { chromium } from 'playwright-core';

const [objects = 2_000_000] = process.argv.slice(2).map(Number);
const ROOT = join(import.meta.dirname, '../../..');
const SITES = 300;
const A_LINE = 3000;
const PORT = 4598;
const TIMES = 3;
const data = mkdtempSync(join(tmpdir(), 'heron-opening-'));
const server = spawn(process.execPath, [join(ROOT, 'scripts', 'heron.mjs'), 'serve', '--port', String(PORT)], {
  stdio: ['ignore', 'pipe', 'inherit'],
  env: { ...process.env, BRISK_HERON_DATA: data },
});
const [printed] = await once(server.stdout, 'data');
const address = /http\S+/.exec(String(printed))[0];
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--headless', '--no-sandbox', '--disable-gpu'],
});

try {
  const file = join(data, 'many.ndjson');
  await write(file);
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await page.goto(address);
  const importFrom = performance.now();
  await page.locator('[data-test=file]').setInputFiles([file]);
  await ribbon(page);
  say('imported, to the ribbon', performance.now() - importFrom);
  while (!(await page.evaluate(keptCount))) await wait(500);
  const readMs = await median(() => page.evaluate(readStored, 'columns'));
  say('baseline: reading the bytes of its columns', readMs);
  const columnsMs = await median(() => reopened(page));
  say('opened out of its columns, to the ribbon', columnsMs, `× ${(columnsMs / readMs).toFixed(2)} of baseline`);
  await page.evaluate(dropColumns);
  const fromSource = performance.now();
  await page.reload();
  await ribbon(page);
  say('opened out of its source, to the ribbon', performance.now() - fromSource);
} finally {
  await browser.close();
  server.kill();
  rmSync(data, { recursive: true, force: true });
}

function say(what, ms, note = '') {
  process.stdout.write(`${what.padEnd(48)} ${ms.toFixed(0).padStart(8)} ms   ${note}\n`);
}

async function median(run) {
  const taken = [];
  for (let n = 0; n < TIMES; n++) taken.push(await run());
  return taken.sort((a, b) => a - b)[TIMES >> 1];
}

async function ribbon(page) {
  await page.waitForSelector('[data-test=ribbon] canvas', { state: 'visible', timeout: 300_000 });
}

async function reopened(page) {
  const from = performance.now();
  await page.reload();
  await ribbon(page);
  return performance.now() - from;
}

// These run in the page.
function keptCount() {
  return new Promise((resolve) => {
    const open = indexedDB.open('brisk-heron');
    open.onsuccess = () => {
      const count = open.result.transaction('columns').objectStore('columns').count();
      count.onsuccess = () => {
        open.result.close();
        resolve(count.result > 0);
      };
    };
  });
}

async function readStored(store) {
  const from = performance.now();
  const db = await new Promise((resolve) => {
    const open = indexedDB.open('brisk-heron');
    open.onsuccess = () => resolve(open.result);
  });
  const rows = await new Promise((resolve) => {
    const all = db.transaction(store).objectStore(store).getAll();
    all.onsuccess = () => resolve(all.result);
  });
  for (const { file } of rows) await file.arrayBuffer();
  db.close();
  return performance.now() - from;
}

function dropColumns() {
  return new Promise((resolve) => {
    const open = indexedDB.open('brisk-heron');
    open.onsuccess = () => {
      const gone = open.result.transaction('columns', 'readwrite').objectStore('columns').clear();
      gone.onsuccess = () => {
        open.result.close();
        resolve(true);
      };
    };
  });
}

async function write(file) {
  const out = createWriteStream(file);
  const add = async (line) => {
    if (!out.write(`${JSON.stringify({ h: '1', ...line })}\n`)) await once(out, 'drain');
  };
  const each = (make) => Array.from({ length: SITES }, (_, site) => make(site));
  await add({
    k: 'hello',
    schema: 'brisk-heron/stream@1',
    epochMs: 0,
    program: 'many',
    runtime: 'made for this',
    interval: 65536,
  });
  const frames = { fn: each((n) => `site${n}`), file: each((n) => `/weir/${n % 20}.js`), line: each((n) => n) };
  await add({ k: 'frames', first: 0, ...frames, col: each(() => 1) });
  await add({ k: 'paths', first: 0, parent: each(() => -1), frame: each((n) => n) });
  await add({ k: 'phase', t: 0, kind: 'objects' });
  for (let first = 0; first < objects; first += A_LINE) {
    const [from, to] = [first / 100, (first + A_LINE) / 100];
    const ids = Array.from({ length: A_LINE }, (_, n) => first + n);
    const born = { path: ids.map((id) => id % SITES), size: ids.map((id) => 16 + 8 * (id % 77)) };
    await add({ k: 'born', from, to, id: ids, ...born, at: ids.map((id) => id / 100), p: ids.map(() => 0.5) });
    await add({ k: 'died', from, to: to + 1, id: ids.filter((id) => id % 10 !== 0) });
  }
  out.end();
  await once(out, 'finish');
}
