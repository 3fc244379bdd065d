/** Two recordings of many objects compared, once both are open, against one plain pass over a column of as many rows. */
import { askMeasure, askPair, Study } from '../dist/index.js';
import { recordingOf } from './many-objects.mjs';
import { medianMs, report } from './measure.mjs';

for (const millions of [1, 10]) {
  const studies = [0, 1].map(() => new Study({ runs: [recordingOf((millions * 1e6) / 1.9)] }));
  const { sizeBytes } = studies[0].run().tables.objects.col;
  const baselineMs = medianMs(() => {
    let sum = 0;
    for (let row = 0; row < sizeBytes.length; row++) sum += sizeBytes[row];
    return sum;
  });
  const of = `of 2 × ${millions} million events`;
  const sides = studies.map((study) => [study, {}]);
  // What the page has asked of each when it is open.
  for (const [study, side] of sides) askMeasure(study, side, 'overview', {});
  const ask = (name, given = {}) => askPair(sides[0], sides[1], name, given);
  const from = performance.now();
  ask('comparison');
  report(`comparison ${of}, once both are open`, performance.now() - from, baselineMs);
  report(
    `comparison ${of}, again`,
    medianMs(() => ask('comparison', { charge: 'package' }), 3),
    baselineMs,
  );
  const paths = performance.now();
  ask('pathChanges');
  report(`call paths of both ${of}, once`, performance.now() - paths, baselineMs);
}
