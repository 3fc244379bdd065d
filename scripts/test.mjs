/** `npm test`: installs what is missing, then lint, types, and the tests of code, processes and browser. */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, install, installCompiler, installPackages, root } from './bootstrap.mjs';

/** Tests that leave something open do not end by themselves. */
const MOST_MS = 40 * 60_000;
const CHROMIUM = process.env.CHROMIUM ?? '/usr/bin/chromium';
let failedSteps = 0;
let passedSteps = 0;

try {
  install({ loud: true });
  installChromium();
  installJdk();
  installCompiler();
  build({ loud: true, page: true });
} catch (error) {
  process.stderr.write(`setting up failed: ${error.message}\n`);
  process.stdout.write('0 passed, 1 failed\n');
  process.exit(1);
}

step('lint', 'node_modules/eslint/bin/eslint.js', ['.', '--max-warnings', '0']);
step('formatting', 'node_modules/prettier/bin/prettier.cjs', ['--check', '--log-level', 'warn', '.']);
step('types of the page', 'node_modules/vue-tsc/bin/vue-tsc.js', ['--noEmit', '-p', 'packages/web/tsconfig.json']);
step('types of the tests', 'node_modules/typescript/bin/tsc', ['-p', 'test/tsconfig.json']);

const counts = { passed: passedSteps, failed: failedSteps, skipped: 0 };
const more = process.argv.slice(2);
runTests(['--selectProjects', 'unit', 'process', 'browser', ...more]);
runTests(['--selectProjects', 'live', '--runInBand', ...more]);
process.stdout.write(
  `${counts.passed} passed, ${counts.failed} failed${counts.skipped > 0 ? `, ${counts.skipped} skipped` : ''}\n`,
);
process.exit(counts.failed > 0 ? 1 : 0);

function runTests(args) {
  const results = join(mkdtempSync(join(tmpdir(), 'heron-results-')), 'jest.json');
  const jest = spawnSync(
    process.execPath,
    ['node_modules/jest/bin/jest.js', '--json', `--outputFile=${results}`, ...args],
    { cwd: root, stdio: ['ignore', 'ignore', 'inherit'], timeout: MOST_MS },
  );
  if (jest.signal !== null) process.stderr.write('the tests did not end: something was left open, or hangs\n');
  const told = existsSync(results) ? JSON.parse(readFileSync(results, 'utf8')) : null;
  counts.passed += told?.numPassedTests ?? 0;
  counts.skipped += told?.numPendingTests ?? 0;
  const failed = told === null ? 1 : told.numFailedTests + told.numRuntimeErrorTestSuites;
  counts.failed += failed === 0 && jest.status !== 0 ? 1 : failed;
  for (const { assertionResults } of told?.testResults ?? [])
    for (const { fullName, invocations } of assertionResults)
      if (invocations > 1) process.stderr.write(`tried twice: ${fullName}\n`);
}

function step(name, script, args) {
  process.stderr.write(`${name} …\n`);
  const { status } = spawnSync(process.execPath, [script, ...args], { cwd: root, stdio: 'inherit' });
  if (status === 0) passedSteps++;
  else failedSteps++;
}

/** Debian's Chromium for the tests of the page. */
function installChromium() {
  if (existsSync(CHROMIUM)) return;
  if (!installPackages(['chromium']))
    throw new Error(
      'Chromium could not be installed: install Debian\'s package "chromium", or name a Chromium with CHROMIUM=/path',
    );
}

/** A JDK and a compiler for the JVM recorder. Without them its tests are skipped, and a line says so. */
function installJdk() {
  const missing = [
    ['javac', 'default-jdk-headless'],
    ['make', 'make'],
    ['cc', 'gcc'],
  ].filter(([tool]) => spawnSync(tool, ['--version'], { stdio: 'ignore' }).error !== undefined);
  if (missing.length === 0) return;
  if (!installPackages([...missing.map(([, name]) => name), 'libc6-dev']))
    process.stderr.write(
      'a JDK and a C compiler could not be installed: the tests of the JVM recorder will be skipped\n',
    );
}
