/** Holds a recording against what its program counted of itself. Pure: no process is started here. */
import {
  NONE,
  chargeGroups,
  chargeTable,
  chargeText,
  endOfWorkMs,
  judge,
  runSummary,
  workOf,
  ObjectIndex,
  spanSums,
  verdictClauses,
  sentence,
} from '../../packages/core/dist/index.js';

/** A cell is judged when so many samples are expected of it: the normal interval of fewer is not 95 % wide. */
const LEAST_SAMPLES = 20;
/** Which verdicts are right of what a program does. */
export const FITS = {
  any: ['growing', 'stepping', 'steady', 'settled', 'bursting', 'shrinking'],
  growing: ['growing'],
  steady: ['steady', 'settled'],
  flat: ['steady', 'settled', 'bursting', 'shrinking'],
  rising: ['growing', 'stepping'],
  stepping: ['stepping'],
  shrinking: ['shrinking'],
  'not-growing': ['steady', 'settled', 'bursting', 'shrinking'],
};

/**
 * Sums by the function of the nearest own frame: allocated, alive at the end, noticed dead; each with its standard
 * error.
 */
export function sumsByFunction(recording) {
  const { groupOf, keys } = chargeGroups(recording, 'ownFrame');
  const names = Array.from(keys, (key) => chargeText(recording, 'ownFrame', key).split(' ')[0].replace(/^.*\./, ''));
  const sums = new Map();
  const cellOf = (originId) => {
    const name = names[groupOf[originId]];
    let cell = sums.get(name);
    if (cell === undefined)
      sums.set(
        name,
        (cell = { made: 0, madeVariance: 0, kept: 0, keptVariance: 0, died: 0, diedVariance: 0, samples: 0 }),
      );
    return cell;
  };
  const { objects, flows } = recording.tables;
  for (let row = 0; row < objects.length; row++) {
    const cell = cellOf(objects.col.originId[row]);
    const p = objects.col.probability[row];
    const bytes = Number.isNaN(p) ? objects.col.sizeBytes[row] : objects.col.sizeBytes[row] / p;
    const variance = Number.isNaN(p) ? bytes ** 2 : (1 - p) * bytes ** 2;
    const fate = Number.isNaN(objects.col.endMs[row]) ? 'kept' : objects.col.lost[row] === 1 ? null : 'died';
    cell.samples++;
    for (const what of ['made', fate]) {
      if (what === null) continue;
      cell[what] += bytes;
      cell[`${what}Variance`] += variance;
    }
  }
  for (let row = 0; row < flows.length; row++) {
    const cell = cellOf(flows.col.originId[row]);
    for (const what of ['made', 'died']) {
      cell[what] += flows.col.bytes[row];
      cell[`${what}Variance`] += flows.col.seBytes[row] ** 2;
    }
  }
  return sums;
}

/**
 * Whether a verdict is what the program did: `right`, `unclear` or `wrong`, of the heap and of what lies outside it
 * alike.
 */
export function rated(verdict, truth) {
  const outside =
    truth.outside === undefined
      ? 'right'
      : verdict.outside === null || verdict.outside.kind === 'unclear'
        ? 'unclear'
        : FITS[truth.outside].includes(verdict.outside.kind)
          ? 'right'
          : 'wrong';
  const heap = verdict.kind === 'unclear' ? 'unclear' : FITS[truth.verdict].includes(verdict.kind) ? 'right' : 'wrong';
  const memory = truth.outOfMemory === true && verdict.exhaustion === null ? 'wrong' : 'right';
  return [outside, heap, memory].includes('wrong')
    ? 'wrong'
    : [outside, heap].includes('unclear')
      ? 'unclear'
      : 'right';
}

/**
 * How much more the runtime allocated, by its own sizes around collections, than a program counted that allocates
 * nothing worth mention beside: 0.01 for a hundredth. What is left over at the ends of pages is allocated too.
 */
function uncounted(recording, truth) {
  if (truth.alone !== true) return 0;
  const { collections } = recording.tables;
  const { usedBeforeBytes, usedAfterBytes } = collections.col;
  let bytes = 0;
  for (let row = 1; row < collections.length; row++)
    bytes += Math.max(0, usedBeforeBytes[row] - usedAfterBytes[row - 1]);
  const counted = Object.values(truth.cells).reduce((sum, { made }) => sum + made, 0);
  return Math.max(0, bytes / counted - 1);
}

/** What the recording says beside what the program counted. `workMs` is when its work ended. */
export function compare(recording, truth, { workMs, intervalBytes }) {
  const span = workOf({ fromMs: 0, toMs: workMs }, endOfWorkMs(recording));
  const verdict = judge(recording, span);
  const table = chargeTable(recording, spanSums(new ObjectIndex(recording), span), 'ownFrame');
  const first = table.rows.find((row) => row.growthLow > 0);
  const found =
    first === undefined || first.key === NONE
      ? ''
      : chargeText(recording, 'ownFrame', first.key).split(' ')[0].replace(/^.*\./, '');
  const sums = sumsByFunction(recording);
  const cells = [];
  const spare = uncounted(recording, truth);
  for (const [name, { made, kept }] of Object.entries(truth.cells)) {
    if (truth.skip?.includes(name)) continue;
    const seen = sums.get(name) ?? { made: 0, madeVariance: 0, kept: 0, keptVariance: 0, died: 0, diedVariance: 0 };
    for (const [what, expected] of [
      ['made', made],
      ['kept', kept],
      ['died', made - kept],
    ]) {
      // What no collection has met since it died is not known to be dead.
      if (what === 'died' && truth.unsettled === true) continue;
      if (expected < LEAST_SAMPLES * intervalBytes && !(expected === 0 && what === 'kept' && truth.unsettled !== true))
        continue;
      const error = Math.sqrt(seen[`${what}Variance`]);
      // What has just died is not noticed yet: up to one sample of none.
      const within =
        (seen[what] >= expected - Math.max(1.96 * error, 0.002 * expected) &&
          seen[what] <= expected * (1 + spare) + Math.max(1.96 * error, 0.002 * expected)) ||
        (expected === 0 && seen[what] <= 3 * intervalBytes);
      cells.push({ name, what, expected, seen: seen[what], error, within });
    }
  }
  const growthTruth =
    truth.verdict === 'growing'
      ? Object.values(truth.cells).reduce((sum, cell) => sum + cell.kept, 0) / (workMs / 1000)
      : null;
  return {
    kind: verdict.kind,
    sentence: sentence(verdictClauses({ verdict, table, run: runSummary(recording, span, verdict, table) })),
    verdict: rated(verdict, truth),
    slopeHolds:
      growthTruth === null || verdict.kind !== 'growing' || truth.skip !== undefined
        ? null
        : verdict.slopeLow <= growthTruth * 1.05 && verdict.slopeHigh >= growthTruth * 0.95,
    slopeRatio: growthTruth === null ? null : verdict.slopeBytesPerSec / growthTruth,
    top: truth.top === undefined || truth.top === '' ? null : found === truth.top,
    found,
    cells,
  };
}
