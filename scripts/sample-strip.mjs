import { gunzipSync } from 'node:zlib';
import { InputReader, usedStrip } from '../packages/core/dist/index.js';

const SLICES = 60;

/** Length and used memory over time of an exported recording, in kibibytes: what the list of samples draws. */
export function describeSample(bytes) {
  const lines = gunzipSync(bytes);
  const reader = new InputReader();
  reader.write(lines.subarray(lines.indexOf(10) + 1));
  reader.end();
  const recording = reader.runs[reader.runs.length - 1];
  return {
    runtime: recording.runtime,
    durationMs: Math.round(recording.durationMs),
    strip: usedStrip(recording, SLICES).map((used) => Math.round(used / 1024)),
  };
}
