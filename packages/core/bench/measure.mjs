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

/** Prints one line: what was measured, its time, and its ratio to the baseline of the same process. */
export function report(what, ms, baselineMs, note = '') {
  process.stdout.write(
    `${what.padEnd(58)} ${ms.toFixed(1).padStart(9)} ms   × ${(ms / baselineMs).toFixed(2).padStart(6)} of baseline  ${note}\n`,
  );
}
