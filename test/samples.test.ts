import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { InputReader } from '../packages/core/src/formats/input-reader.ts';
import { usedStrip } from '../packages/core/src/query/used-strip.ts';

const FOLDER = join(__dirname, '../examples/recordings');

interface Sample {
  readonly file: string;
  readonly title: string;
  readonly about: string;
  readonly runtime: string;
  readonly durationMs: number;
  readonly strip: readonly number[];
}
const { samples } = JSON.parse(readFileSync(join(FOLDER, 'samples.json'), 'utf8')) as { samples: readonly Sample[] };

test('every sample is described, and nothing else is', () => {
  const files = readdirSync(FOLDER).filter((name) => name.endsWith('.heron'));
  expect(samples.map(({ file }) => file).sort()).toEqual(files.sort());
});

test.each(samples.map((sample) => [sample.title, sample] as const))('%s is drawn as it was recorded', (_, sample) => {
  const lines = gunzipSync(readFileSync(join(FOLDER, sample.file)));
  const reader = new InputReader();
  reader.write(lines.subarray(lines.indexOf(10) + 1));
  reader.end();
  const recording = reader.runs[reader.runs.length - 1]!;
  expect(sample.strip).toEqual(usedStrip(recording, sample.strip.length).map((used) => Math.round(used / 1024)));
  expect([sample.runtime, sample.durationMs]).toEqual([recording.runtime, Math.round(recording.durationMs)]);
  expect(sample.about.length).toBeGreaterThan(30);
});
