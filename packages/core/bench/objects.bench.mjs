/** Questions to many objects, against one plain pass over a column of as many rows. */
import { chargeTable, findPeak, heapContent, liveLevels, ObjectIndex, PhaseKind, Recording, spanSums, strata } from '../dist/index.js';
import { medianMs, report } from './measure.mjs';

const SITES = 500;

function recordingOf(count) {
  const recording = new Recording('recording');
  recording.addHeap('main');
  const NONE = 0xffffffff;
  const origins = Array.from({ length: SITES }, (_, n) => recording.internOrigin(recording.internPath(NONE, recording.internFrame(`site${n}`, `/srv/weir${n % 40}/main.js`, n, 1)), NONE, NONE, 0));
  const { objects, phases } = recording.tables;
  phases.col.kind[phases.addRow()] = PhaseKind.objects;
  phases.col.fromMs[0] = 0;
  let state = 1;
  for (let n = 0; n < count; n++) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    const row = objects.addRow();
    const { col } = objects;
    col.bornMs[row] = (n / count) * 600_000;
    if (state % 10 < 9) {
      col.endMs[row] = col.bornMs[row] + (state % 5000);
      col.diedSlackMs[row] = 0;
    }
    col.sizeBytes[row] = 16 + (state % 512);
    col.probability[row] = 1;
    col.originId[row] = origins[state % SITES];
  }
  recording.reach(600_000);
  return recording;
}

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
  report(`sums of a span ${of}`, medianMs(() => spanSums(index, span), 3), baselineMs);
  report(`sums of the whole ${of}`, medianMs(() => spanSums(index, whole), 3), baselineMs);
  const brief = { fromMs: 300_000, toMs: 306_000 };
  report(`sums of a hundredth ${of}`, medianMs(() => spanSums(index, brief), 3), baselineMs);
  report(`table by site from the sums, ${SITES} sites`, medianMs(() => chargeTable(recording, sums, 'site'), 3), baselineMs);
  report(`table by package from the sums`, medianMs(() => chargeTable(recording, sums, 'package'), 3), baselineMs);
  report(`strata ${of}, 1200 bins`, medianMs(() => strata(recording, span, { bins: 1200 }), 3), baselineMs);
  report(`what lived at a moment ${of}`, medianMs(() => heapContent(index, 300_000, 'site'), 3), baselineMs);
  const levels = liveLevels(recording);
  report(`live levels ${of}`, medianMs(() => liveLevels(recording), 3), baselineMs);
  report(`peak ${of}`, medianMs(() => findPeak({ index, levels }, span, 'site'), 3), baselineMs);
}
