/** Reading a GC log against the plainest reading of the same bytes: split into lines, one regular expression on each. */
import { readFileSync } from 'node:fs';
import { analysisReport, InputReader } from '../dist/index.js';
import { medianMs, report } from './measure.mjs';

const MIB = 1048576;
const sample = readFileSync(new URL('../../../examples/logs/weirkeeper-g1.log', import.meta.url), 'utf8');
const PLAIN = /^\[(\d+\.\d+)s\]\[\w+\]\[([\w,]+) *\] (.*)$/;

/** The sample again and again as one long run: clock and collection ids go on. */
function longLog(bytes) {
  const body = sample.slice(sample.indexOf('GC(0)') - 40).split('\n').slice(1).join('\n');
  const parts = [sample];
  for (let n = 1, length = sample.length; length < bytes; n++) {
    parts.push(body.replace(/\[(\d+)\.(\d+)s\]/g, (_, s, ms) => `[${Number(s) + n * 24}.${ms}s]`).replace(/GC\((\d+)\)/g, (_, id) => `GC(${Number(id) + n * 100})`));
    length += parts[n].length;
  }
  return Buffer.from(parts.join('').slice(0, bytes));
}

for (const mib of [4, 20, 60]) {
  const bytes = longLog(mib * MIB);
  const baselineMs = medianMs(() => {
    let found = 0;
    for (const line of bytes.toString('latin1').split('\n')) if (PLAIN.exec(line) !== null) found++;
    return found;
  }, 3);
  const ms = medianMs(() => {
    const reader = new InputReader();
    for (let at = 0; at < bytes.length; at += MIB) reader.write(bytes.subarray(at, at + MIB));
    const result = reader.end();
    return analysisReport(result.runs[result.runs.length - 1]);
  }, 3);
  report(`read and analyse a G1 log of ${mib} MiB`, ms, baselineMs, `${((mib * 1000) / ms).toFixed(0)} MiB/s, baseline ${((mib * 1000) / baselineMs).toFixed(0)} MiB/s`);
}
