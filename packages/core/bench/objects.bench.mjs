/** Questions to many objects, against one plain pass over a column of as many rows. */
import {
  birthAgeMap,
  chargeGroups,
  chargeTable,
  findObjects,
  findOrigins,
  findPeak,
  heapContent,
  liveLevels,
  livesOf,
  medianLifetimes,
  ObjectIndex,
  spanSums,
  strata,
  survivalOf,
  livesByGroup,
  youngCaused,
  youngFill,
} from '../dist/index.js';
import { recordingOf, SITES } from './many-objects.mjs';
import { medianMs, report } from './measure.mjs';

/** Two events an object: its birth and, for nine in ten, its death. */
for (const millions of [1, 3, 10]) {
  const recording = recordingOf((millions * 1e6) / 1.9);
  const { sizeBytes } = recording.tables.objects.col;
  const baselineMs = medianMs(() => {
    let sum = 0;
    for (let row = 0; row < recording.tables.objects.length; row++) sum += sizeBytes[row];
    return sum;
  });
  const span = { fromMs: 100_000, toMs: 500_000 };
  const whole = { fromMs: 0, toMs: 600_000 };
  const of = `of ${millions} million events`;
  const index = new ObjectIndex(recording);
  const from = performance.now();
  index.update();
  report(`index ${of}, once`, performance.now() - from, baselineMs);
  const sums = spanSums(index, span);
  report(
    `sums of a span ${of}`,
    medianMs(() => spanSums(index, span), 3),
    baselineMs,
  );
  report(
    `sums of the whole ${of}`,
    medianMs(() => spanSums(index, whole), 3),
    baselineMs,
  );
  const brief = { fromMs: 300_000, toMs: 306_000 };
  report(
    `sums of a hundredth ${of}`,
    medianMs(() => spanSums(index, brief), 3),
    baselineMs,
  );
  report(
    `table by site from the sums, ${SITES} sites`,
    medianMs(() => chargeTable(recording, sums, 'site'), 3),
    baselineMs,
  );
  report(
    `table by package from the sums`,
    medianMs(() => chargeTable(recording, sums, 'package'), 3),
    baselineMs,
  );
  report(
    `strata ${of}, 1200 bins`,
    medianMs(() => strata(recording, span, { bins: 1200 }), 3),
    baselineMs,
  );
  report(
    `what lived at a moment ${of}`,
    medianMs(() => heapContent(index, 300_000, 'site'), 3),
    baselineMs,
  );
  const levels = liveLevels(recording);
  report(
    `live levels ${of}`,
    medianMs(() => liveLevels(recording), 3),
    baselineMs,
  );
  report(
    `peak ${of}`,
    medianMs(() => findPeak({ index, levels }, span, 'site'), 3),
    baselineMs,
  );
  report(
    `find a word ${of}`,
    medianMs(() => findOrigins(recording, 'site12 !weir3'), 3),
    baselineMs,
  );
  for (const find of ['size>1KiB', 'age>1min', 'fate=died', 'fate=kept size=64..256']) {
    let found = 0;
    const ms = medianMs(() => {
      found = findObjects(recording, find, span, 5000).part.tables.objects.length;
    }, 3);
    report(`find ${find} ${of}`, ms, baselineMs, `${found.toLocaleString('en')} objects`);
  }
  const groups = chargeGroups(recording, 'site');
  const every = { chosen: null, flows: [] };
  const fill = youngFill(recording, whole, []);
  report(
    `what filled the young space ${of}`,
    medianMs(() => youngFill(recording, whole, []), 3),
    baselineMs,
  );
  report(
    `young collections by site ${of}`,
    medianMs(() => youngCaused(recording, fill, groups, every), 3),
    baselineMs,
  );
  report(
    `median lifetimes by site ${of}`,
    medianMs(() => medianLifetimes(recording, whole, groups, every), 3),
    baselineMs,
  );
  const lived = (kind) => livesOf(recording, { span: whole, kind, by: 'bytes', chosen: null, flows: [] });
  for (const kind of ['seconds', 'collections'])
    report(
      `lives by ${kind} ${of}`,
      medianMs(() => lived(kind)),
      baselineMs,
    );
  const lives = lived('seconds');
  const groupOf = Int32Array.from({ length: SITES }, (_, n) => (n < 200 ? n : -1));
  report(
    `curves of 200 sites ${of}`,
    medianMs(() => survivalOf(livesByGroup(lives, 200, groupOf), 'seconds')),
    baselineMs,
  );
  const shape = { columns: 240, rows: 90, isLog: true };
  report(
    `map of births and ages ${of}`,
    medianMs(() => birthAgeMap(recording, whole, null, shape)),
    baselineMs,
  );
}
