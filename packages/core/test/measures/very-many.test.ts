import { askMeasure } from '../../src/measures/registry.ts';
import type { ChurnAnswer } from '../../src/measures/churn.ts';
import type { CollectionsAnswer } from '../../src/measures/collections.ts';
import type { LifetimesAnswer } from '../../src/measures/lifetimes.ts';
import type { Overview } from '../../src/measures/overview.ts';
import { Recording } from '../../src/model/recording.ts';
import { Study } from '../../src/study/study.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { addCollection, addObject, followObjects, recordingOf } from '../build-recording.ts';

const KEYS = 3000;
const AGE_MS = 40;

/** Site n allocates n + 1 objects of 8 bytes, each of which lives 40 ms, over a collection or two. */
function manyKeys(): Recording {
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  let bornMs = 0;
  for (let site = 0; site < KEYS; site++)
    for (let n = 0; n <= site % 7; n++) {
      bornMs += 0.5;
      addObject(recording, { bornMs, diedMs: bornMs + AGE_MS, bytes: 8 * (site + 1), site: `site${site}` });
    }
  for (let startMs = 30; startMs < bornMs; startMs += 30)
    addCollection(recording, { startMs, ms: 1, before: 100, after: 50, scope: Scope.young });
  recording.reach(bornMs + 1000);
  return recording;
}

test('of very many keys those that are shown have all their figures, and the others are counted', () => {
  const study = new Study({ runs: [manyKeys()] });
  const ask = { charge: 'site' };
  const churn = askMeasure(study, {}, 'churn', ask) as ChurnAnswer;
  expect([churn.keyCount, churn.rows.length]).toEqual([KEYS, 200]);
  expect(churn.rows[0]!.allocBytes).toBeGreaterThan(churn.rows[199]!.allocBytes);
  let [caused, causing] = [0, 0];
  for (const { lifetime, caused: collections, allocBytes } of churn.rows) {
    expect(lifetime!.lowMs).toBeLessThanOrEqual(AGE_MS);
    expect(lifetime!.highMs).toBeGreaterThan(0.9 * AGE_MS);
    expect(allocBytes).toBeGreaterThan(0);
    caused += collections;
    if (collections > 0) causing++;
  }
  // What was born behind the last collection filled the space for none.
  expect(causing).toBeGreaterThan(190);
  expect(caused).toBeLessThan(churn.collections);
  const lives = askMeasure(study, {}, 'lifetimes', ask) as LifetimesAnswer;
  expect([lives.keyCount, lives.rows.length]).toEqual([KEYS, 500]);
  // What all keys add up to is not that of the shown alone.
  const shown = lives.rows.reduce((sum, { bytes }) => sum + bytes, 0);
  expect(lives.all.bytes).toBeGreaterThan(shown);
  expect(lives.all.middleBytes).toBeGreaterThan(0);
  expect(lives.all.soonBytes + lives.all.middleBytes).toBeCloseTo(lives.all.bytes - lives.all.lastingBytes, 3);
});

test('of very many moments of a finding those told lie in all of the span, and all are counted', () => {
  const LENGTH_MS = 100_000;
  const recording = new Recording('recording');
  recording.addHeap('main');
  for (let startMs = 0; startMs < LENGTH_MS; startMs += 20)
    addCollection(recording, { startMs, ms: 15, before: 100, after: 50, scope: Scope.young });
  recording.reach(LENGTH_MS);
  const study = new Study({ runs: [recording] });
  const goalMs = 10;
  const [long] = (askMeasure(study, {}, 'collections', { goalMs }) as CollectionsAnswer).findings.filter(
    ({ code }) => code === 'long-pauses',
  );
  expect([long!.momentCount, long!.moments.length, long!.moments[0]!.fromMs]).toEqual([5000, 2000, 0]);
  const explicit = recordingOf(
    Array.from({ length: 5000 }, (_, n) => ({
      startMs: n * 20,
      ms: 1,
      before: 100,
      after: 50,
      flags: CollectionFlag.explicit,
    })),
    LENGTH_MS,
  );
  const { findings } = askMeasure(new Study({ runs: [explicit] }), {}, 'overview', {}) as Overview;
  const { moments } = findings.find(({ code }) => code === 'explicit')!;
  expect(moments).toHaveLength(300);
  expect([moments[0]!.fromMs, moments[150]!.fromMs > 0.45 * LENGTH_MS]).toEqual([0, true]);
  expect(moments.at(-1)!.fromMs).toBeGreaterThan(0.95 * LENGTH_MS);
});
