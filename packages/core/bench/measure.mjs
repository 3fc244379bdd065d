import { appendFileSync } from 'node:fs';

/** Times a function over several runs and answers the median in milliseconds; the first run only warms up. */
export function medianMs(run, times = 5) {
  run();
  const taken = [];
  for (let n = 0; n < times; n++) {
    const from = performance.now();
    run();
    taken.push(performance.now() - from);
  }
  return taken.sort((a, b) => a - b)[times >> 1];
}

/**
 * Prints one line: what was measured, its time, and its ratio to the baseline of the same process. Where all of them are
 * gathered, it is added there.
 */
export function report(what, ms, baselineMs, note = '') {
  const ratio = ms / baselineMs;
  process.stdout.write(
    `${what.padEnd(58)} ${ms.toFixed(1).padStart(9)} ms   × ${ratio.toFixed(2).padStart(6)} of baseline  ${note}\n`,
  );
  const { BRISK_HERON_MEASURED: out, BRISK_HERON_BENCH: bench = '' } = process.env;
  if (out !== undefined) appendFileSync(out, `${JSON.stringify({ bench, what, ms, ratio, note })}\n`);
}
