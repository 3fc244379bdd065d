/** Questions to many objects, against one plain pass over a column of as many rows. */
import { Recording, siteTable, strata, PhaseKind } from '../dist/index.js';
import { medianMs, report } from './measure.mjs';

const SITES = 500;

function recordingOf(count) {
  const recording = new Recording('recording');
  recording.addHeap('main');
  const paths = Array.from({ length: SITES }, (_, n) => recording.internPath(0xffffffff, recording.internFrame(`site${n}`, `/srv/weir${n % 40}.js`, n, 1)));
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
      col.diedMs[row] = col.bornMs[row] + (state % 5000);
      col.diedSlackMs[row] = 0;
    }
    col.sizeBytes[row] = 16 + (state % 512);
    col.probability[row] = 1;
    col.pathId[row] = paths[state % SITES];
  }
  recording.reach(600_000);
  return recording;
}

for (const millions of [0.3, 1, 3]) {
  const recording = recordingOf(millions * 1e6);
  const { sizeBytes } = recording.tables.objects.col;
  const baselineMs = medianMs(() => {
    let sum = 0;
    for (let row = 0; row < recording.tables.objects.length; row++) sum += sizeBytes[row];
    return sum;
  });
  const span = { fromMs: 100_000, toMs: 500_000 };
  report(`strata of ${millions} million objects, 1200 bins`, medianMs(() => strata(recording, span, 1200), 3), baselineMs);
  report(`sites of ${millions} million objects, with growth`, medianMs(() => siteTable(recording, span, 'site'), 3), baselineMs);
}
