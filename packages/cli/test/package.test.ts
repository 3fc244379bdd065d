import { execFile, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { freePort, ROOT, scratch } from '../../../test/run-heron.ts';

const run = promisify(execFile);
const PROGRAM = `const kept = [];
const timer = setInterval(() => { for (let n = 0; n < 300; n++) kept.push({ n, tide: 'tide ' + n }); if (kept.length > 9000) clearInterval(timer); }, 20);
`;

test('the package installs into an empty folder and runs there', async () => {
  const [packed, folder] = [scratch(), scratch()];
  const { stdout } = await run(process.execPath, [join(ROOT, 'scripts/pack.mjs'), packed], { cwd: ROOT });
  const tarball = stdout.trim().split('\n').at(-1)!;
  await run('npm', ['install', '--global', '--prefix', folder, '--no-audit', '--no-fund', tarball], { cwd: folder });
  const heron = join(folder, 'bin', 'heron');
  const env = { ...process.env, BRISK_HERON_DATA: join(folder, 'data') };
  const work = join(folder, 'work');
  mkdirSync(work);
  writeFileSync(join(work, 'tides.js'), PROGRAM);
  await run(heron, ['record', '--out', 'tides.ndjson', '--', process.execPath, 'tides.js'], { cwd: work, env });
  const asked = await run(heron, ['ask', 'tides.ndjson', '--measure', 'sites'], { cwd: work, env });
  expect(asked.stdout).toMatch(/tides\.js:2/);
  const port = await freePort();
  const server = spawn(heron, ['serve', '--port', String(port)], {
    cwd: work,
    env,
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  try {
    const [address] = (await once(server.stdout, 'data')) as [Buffer];
    const page = await fetch(String(address).trim(), { redirect: 'manual' });
    const cookie = page.headers.get('set-cookie')!.split(';')[0]!;
    const headers = { cookie };
    const shown = await fetch(`http://127.0.0.1:${port}/`, { headers });
    expect(await shown.text()).toContain('<title>Brisk Heron</title>');
    const samples = await fetch(`http://127.0.0.1:${port}/api/samples`, { headers });
    expect(await samples.json()).toMatchObject({
      samples: expect.arrayContaining(['tidewatch-fixed.heron']) as object,
    });
  } finally {
    server.kill('SIGINT');
    await once(server, 'exit');
  }
});
