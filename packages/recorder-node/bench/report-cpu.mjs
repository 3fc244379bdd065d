/** Loaded with --import into both runs of a pair: writes down the processor time of the main process when it ends. */
import { writeFileSync } from 'node:fs';
import { isMainThread } from 'node:worker_threads';

if (isMainThread && process.env.BENCH_CPU_OUT && !process.env.BENCH_CPU_PID) {
  process.env.BENCH_CPU_PID = String(process.pid);
  process.on('exit', () => {
    const { user, system } = process.cpuUsage();
    writeFileSync(process.env.BENCH_CPU_OUT, String((user + system) / 1000));
  });
}
