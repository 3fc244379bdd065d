/**
 * A live recording of many births a second, from the server's door to the drawn page: how far the page lags behind,
 * what its thread was blocked for, and whether every byte is in the browser's store. `node
 * packages/web/bench/live.bench.mjs [A_SECOND] [SECONDS]`.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { chromium } from 'playwright-core';

const [perSecond = 200_000, seconds = 30] = process.argv.slice(2).map(Number);
const ROOT = join(import.meta.dirname, '../../..');
const SITES = 300;
const PORT = 4597;
const ID = 'many';
/** By then the page has drawn itself for the first time. */
const FIRST_MS = 3000;
const data = mkdtempSync(join(tmpdir(), 'heron-live-'));
const server = spawn(process.execPath, [join(ROOT, 'scripts', 'heron.mjs'), 'serve', '--port', String(PORT)], {
  stdio: ['ignore', 'pipe', 'inherit'],
  env: { ...process.env, BRISK_HERON_DATA: data },
});
await new Promise((up) => server.stdout.once('data', up));
const token = readFileSync(join(data, 'token'), 'utf8').trim();
const address = `http://127.0.0.1:${PORT}`;
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--headless', '--no-sandbox', '--disable-gpu'],
});
let offset = 0;
const beganMs = Date.now();

try {
  const each = (make) => Array.from({ length: SITES }, (_, site) => make(site));
  await send([
    {
      k: 'hello',
      schema: 'brisk-heron/stream@1',
      h: '1',
      epochMs: beganMs,
      program: 'many',
      runtime: 'made for this',
      interval: 65536,
      births: 'all',
    },
    {
      k: 'frames',
      h: '1',
      first: 0,
      fn: each((site) => `site${site}`),
      file: each((site) => `/weir/${site % 20}.js`),
      line: each((site) => site),
      col: each(() => 1),
    },
    { k: 'paths', h: '1', first: 0, parent: each(() => -1), frame: each((site) => site) },
    { k: 'phase', h: '1', t: 0, kind: 'objects' },
  ]);
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await page.goto(`${address}/recording/live-${ID}/growth?token=${token}`);
  await page.evaluate(() => {
    globalThis.blocked = [];
    new PerformanceObserver((list) =>
      list
        .getEntries()
        .forEach(({ startTime, duration }) => globalThis.blocked.push([Math.round(startTime), Math.round(duration)])),
    ).observe({ entryTypes: ['longtask'] });
  });
  const lags = await load(page);
  const fromMs = Date.now();
  while ((await lagMs(page)) > 2000 && Date.now() - fromMs < 60_000) await wait(50);
  const caughtUpMs = Date.now() - fromMs;
  await fetch(`${address}/api/streams/${ID}/end`, {
    method: 'POST',
    headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
    body: '{"exitCode":0,"signal":null}',
  });
  const blocked = await page.evaluate(() => globalThis.blocked);
  await page.locator('[data-test=link]', { hasText: 'ended' }).waitFor({ timeout: 60_000 });
  await wait(1500);
  const stored = await page.evaluate(
    (id) =>
      new Promise((resolve) => {
        const opening = indexedDB.open('brisk-heron');
        opening.onsuccess = () => {
          const reading = opening.result.transaction('recordings').objectStore('recordings').get(id);
          reading.onsuccess = () => resolve(reading.result.bytes);
        };
      }),
    `live-${ID}`,
  );
  lags.sort((a, b) => a - b);
  console.log(
    `live, ${perSecond.toLocaleString('en')} births a second for ${seconds} s (${(offset / 2 ** 20).toFixed(0)} MiB): lag median ${(lags[lags.length >> 1] / 1000).toFixed(1)} s, most ${(lags.at(-1) / 1000).toFixed(1)} s; under 2 s ${caughtUpMs} ms after the last`,
  );
  console.log(
    `  stored in the browser: ${stored === offset ? 'every byte' : `${stored} of ${offset} bytes`}; tasks over 50 ms: ${blocked.length}${blocked.length === 0 ? '' : `, the longest ${longest(blocked)} ms, after the first drawing ${longest(blocked.filter(([at]) => at > FIRST_MS))} ms`}`,
  );
} finally {
  await browser.close();
  server.kill('SIGTERM');
  await new Promise((ended) => server.once('exit', ended));
  rmSync(data, { recursive: true, force: true });
}

function longest(tasks) {
  return tasks.reduce((most, [, ms]) => Math.max(most, ms), 0);
}

async function load(page) {
  const lags = [];
  const living = [];
  let born = 0;
  let lookedMs = Date.now();
  for (const fromMs = Date.now(); Date.now() - fromMs < seconds * 1000; await wait(20)) {
    const t = Date.now() - beganMs;
    const from = Math.max(0, t - 100);
    const lines = [];
    for (const due = Math.floor(((Date.now() - fromMs) / 1000) * perSecond); born < due;) {
      const id = Array.from({ length: Math.min(4000, due - born) }, (_, n) => born + n);
      born += id.length;
      lines.push({
        k: 'born',
        h: '1',
        from,
        to: t,
        id,
        path: id.map((each) => (each * 7) % SITES),
        size: id.map((each) => 16 + (each % 97) * 8),
      });
      living.push(id);
      if (living.length > 20) lines.push({ k: 'died', h: '1', from, to: t, id: living.shift() });
    }
    lines.push({ k: 'gc', h: '1', t, ms: 5, scope: 'young', label: 'gc', before: 9e6, after: 5e6 });
    await send(lines);
    if (Date.now() - lookedMs < 500) continue;
    lookedMs = Date.now();
    lags.push(await lagMs(page));
  }
  return lags;
}

async function send(lines) {
  const response = await fetch(`${address}/api/streams/${ID}/lines?offset=${offset}`, {
    method: 'POST',
    headers: { authorization: `Bearer ${token}`, 'content-type': 'application/x-ndjson' },
    body: lines.map((line) => `${JSON.stringify(line)}\n`).join(''),
  });
  const answer = await response.json();
  if (!response.ok) throw new Error(answer.message);
  offset = answer.bytes;
}

// The page tells whole seconds: the lag is known to one.
async function lagMs(page) {
  const text = await page
    .locator('[data-test=link]')
    .innerText({ timeout: 5000 })
    .catch(() => '');
  const told = /(\d+):(\d+)/.exec(text);
  return told === null ? Date.now() - beganMs : Date.now() - beganMs - (Number(told[1]) * 60 + Number(told[2])) * 1000;
}
