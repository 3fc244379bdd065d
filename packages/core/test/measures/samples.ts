import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { type Charge, InputReader, type Recording } from '../../src/index.ts';
import { type SitesAnswer, type SitesAsk, sitesOf } from '../../src/measures/sites.ts';
import { type Look, type Subject, WHOLE } from '../../src/study/subject.ts';

const EXAMPLES = join(__dirname, '../../../../examples');

/** Reads one of the example files anew. */
export function sample(file: string): Recording {
  const bytes = readFileSync(join(EXAMPLES, file));
  const reader = new InputReader();
  reader.write(bytes[0] === 0x1f ? gunzipSync(bytes) : bytes);
  const result = reader.end();
  if (!result.ok) throw new Error(result.message);
  return result.runs[result.runs.length - 1]!;
}

export const LEAK = 'recordings/tidewatch-with-its-leak-and-churn.heron';
export const leak = sample(LEAK);
export const fixed = sample('recordings/tidewatch-fixed.heron');
export const log = sample('logs/weirkeeper-g1.log');
export const weirs = sample('recordings/weirkeeper-with-its-faults.heron');
export const fixedWeirs = sample('recordings/weirkeeper-fixed.heron');

/** The whole recording, charged to something. */
export const by = (charge: Charge): Look => ({ ...WHOLE, charge });

/** Who allocates, by all bytes where nothing else is asked. */
export const allocationOf = (subject: Subject, look: Look, ask: Partial<SitesAsk> = {}): SitesAnswer =>
  sitesOf(subject, { look, fate: 'all', counted: 'bytes', round: null, slots: 0, ...ask });
