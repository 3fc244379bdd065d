import { formatBytes } from '../../base/units.ts';
import type { Recording } from '../../model/recording.ts';
import type { Floor } from '../floor.ts';
import { hasEnded } from '../heap-lives.ts';
import type { Exhaustion } from './exhaustion.ts';
import type { GrowthBound } from './growth-bound.ts';
import { LEAST_POINTS, OPEN, type SeriesVerdict } from './judge-series.ts';

/** Whole collections that a floor needs at least to be judged. */
export const LEAST_WHOLE = 3;

/** What an unclear verdict had to go by. */
export interface KnownSoFar {
  readonly floor: Floor;
  readonly series: SeriesVerdict | null;
  readonly bound: GrowthBound | null;
  readonly exhaustion: Exhaustion | null;
}

/** What would decide an unclear verdict, in words: what is known, what is missing, and how to get it. */
export function whatIsMissing(recording: Recording, known: KnownSoFar): string {
  if (!recording.hasClock) return 'a clock: the log was written without time stamps';
  if (known.exhaustion !== null)
    return 'a record of the time before the heap was full, or more room: a full heap tells nothing of growth';
  const { wholeCollections, tMs } = known.floor;
  if (wholeCollections < LEAST_WHOLE) {
    return `${LEAST_WHOLE - wholeCollections} more whole-heap collections (${wholeCollections} of ${LEAST_WHOLE} seen): ${forced(recording)}${boundWords(known.bound)}`;
  }
  if (tMs.length < LEAST_POINTS)
    return `${LEAST_POINTS - tMs.length} more floor points (${tMs.length} of ${LEAST_POINTS} seen): ${forced(recording)}${boundWords(known.bound)}`;
  const missing = known.series?.missing ?? '';
  if (missing === OPEN)
    return `more floor points: between ${formatBytes(known.series!.leastHiddenPerSec * 60)} and ${formatBytes(known.series!.mostHiddenPerSec * 60)} a minute are possible; ${on(recording)}`;
  if (missing === '')
    return `more whole-heap collections: memory rose between those seen, and what rose may be garbage; ${forced(recording)}${boundWords(known.bound)}`;
  return hasEnded(recording) ? missing.replace(/record on$/, on(recording)) : missing;
}

function boundWords(bound: GrowthBound | null): string {
  return bound === null ? '' : `; until then, at most ${formatBytes(bound.mostPerSec * 60)} a minute can be staying`;
}

function on(recording: Recording): string {
  return hasEnded(recording) ? 'run it for longer' : 'record on';
}

// How a whole collection is forced on this runtime.
function forced(recording: Recording): string {
  const how = howToForce(recording);
  return hasEnded(recording)
    ? `run it for longer, or force some while it runs${how === '' ? '' : ` (${how})`}`
    : `force one${how === '' ? '' : ` (${how})`}, or record on`;
}

function howToForce({ runtime, format }: Recording): string {
  if (/OpenJDK|JDK|JVM/i.test(runtime)) return 'jcmd PID GC.run';
  if (/Node|V8/.test(runtime))
    return format === 'recording' ? 'heron record --floor-every 2s' : 'node --expose-gc, and gc() in the program';
  if (/Go/.test(runtime)) return 'runtime.GC() in the program';
  if (/Python/.test(runtime)) return 'gc.collect() in the program';
  return /ruby/i.test(runtime) ? 'GC.start in the program' : '';
}
