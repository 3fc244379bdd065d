/** `npm test`: installs what is missing, then lint, types, and the tests of code, processes and browser. */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, install, root } from './bootstrap.mjs';

const CHROMIUM = process.env.CHROMIUM ?? '/usr/bin/chromium';
let failedSteps = 0;
let passedSteps = 0;

try {
  install({ loud: true });
  installChromium();
  build({ loud: true, page: true });
} catch (error) {
  process.stderr.write(`setting up failed: ${error.message}\n`);
  process.stdout.write('0 passed, 1 failed\n');
  process.exit(1);
}

step('lint', 'node_modules/eslint/bin/eslint.js', ['.', '--max-warnings', '0']);
step('types of the page', 'node_modules/vue-tsc/bin/vue-tsc.js', ['--noEmit', '-p', 'packages/web/tsconfig.json']);
step('types of the tests', 'node_modules/typescript/bin/tsc', ['-p', 'test/tsconfig.json']);

const results = join(mkdtempSync(join(tmpdir(), 'heron-results-')), 'jest.json');
const jest = spawnSync(process.execPath, ['node_modules/jest/bin/jest.js', '--json', `--outputFile=${results}`, '--forceExit', ...process.argv.slice(2)],
  { cwd: root, stdio: ['ignore', 'ignore', 'inherit'] });
const told = existsSync(results) ? JSON.parse(readFileSync(results, 'utf8')) : { numPassedTests: 0, numFailedTests: 1, numPendingTests: 0, numRuntimeErrorTestSuites: 0 };
const failed = told.numFailedTests + told.numRuntimeErrorTestSuites + failedSteps;
const passed = told.numPassedTests + passedSteps;
process.stdout.write(`${passed} passed, ${failed} failed${told.numPendingTests > 0 ? `, ${told.numPendingTests} skipped` : ''}\n`);
process.exit(failed > 0 || jest.status !== 0 ? 1 : 0);

function step(name, script, args) {
  process.stderr.write(`${name} …\n`);
  const { status } = spawnSync(process.execPath, [script, ...args], { cwd: root, stdio: 'inherit' });
  if (status === 0) passedSteps++;
  else failedSteps++;
}

/** Debian's Chromium for the tests of the page. */
function installChromium() {
  if (existsSync(CHROMIUM)) return;
  process.stderr.write('installing Chromium …\n');
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  for (const args of [['update'], ['install', '-y', '--no-install-recommends', 'chromium']]) {
    const { status } = spawnSync('apt-get', args, { stdio: ['ignore', 'ignore', 'inherit'], env });
    if (status !== 0) throw new Error('Chromium could not be installed: install Debian\'s package "chromium", or name a Chromium with CHROMIUM=/path');
  }
}
