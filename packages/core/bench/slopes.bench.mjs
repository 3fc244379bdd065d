/** The slope of a series and its interval, against working out the slopes of all pairs and putting them in order. */
import { theilSen } from '../dist/stats/theil-sen.js';
import { medianMs, report } from './measure.mjs';

for (const points of [64, 500, 2000]) {
  let [level, state] = [0, 1];
  const random = () => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) / 2 ** 32;
  const x = Float64Array.from({ length: points }, (_, n) => n * 3.7);
  const y = Float64Array.from({ length: points }, () => (level += random() < 0.7 ? 1000 * random() - 200 : 0));
  const times = points > 1000 ? 1 : 40_000 / points;
  const baselineMs = medianMs(() => {
    for (let time = 0; time < times; time++) {
      const slopes = new Float64Array((points * (points - 1)) / 2);
      let count = 0;
      for (let i = 0; i < points; i++)
        for (let j = i + 1; j < points; j++) slopes[count++] = (y[j] - y[i]) / (x[j] - x[i]);
      slopes.sort();
    }
  });
  const ownMs = medianMs(() => {
    for (let time = 0; time < times; time++) theilSen(x, y);
  });
  report(`all slopes of ${points} points, in order`, baselineMs / times, baselineMs / times);
  report(`slope of ${points} points and its interval`, ownMs / times, baselineMs / times);
}
