/** Trees of many call paths, against one plain pass that follows every path's parent. */
import {
  fateValues,
  icicle,
  ObjectIndex,
  pathShape,
  pathSums,
  PathTree,
  PhaseKind,
  Recording,
  spanSums,
} from '../dist/index.js';
import { medianMs, report } from './measure.mjs';

const FRAMES = 3000;
const NONE = 0xffffffff;

/**
 * Paths that go on from an earlier one, the later ones the likelier: deep trees with wide nodes. One object ends on
 * every other path.
 */
function recordingOf(count) {
  const recording = new Recording('recording');
  recording.addHeap('main');
  const frames = Array.from({ length: FRAMES }, (_, n) =>
    recording.internFrame(
      `tide${n}`,
      n % 3 === 0 ? `/srv/saltmarsh/tide${n % 80}.js` : `/srv/node_modules/kit${n % 40}/index.js`,
      n,
      1,
    ),
  );
  const { objects, phases, paths } = recording.tables;
  phases.col.kind[phases.addRow()] = PhaseKind.objects;
  phases.col.fromMs[0] = 0;
  let state = 7;
  const random = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  const known = [recording.internPath(NONE, frames[0])];
  while (paths.length < count) {
    const parent = known[Math.floor(known.length * (1 - random() ** 3))];
    const pathId = recording.internPath(parent, frames[Math.floor(random() * random() * FRAMES)]);
    if (pathId === known.length) known.push(pathId);
    if (pathId % 2 === 0) continue;
    const row = objects.addRow();
    objects.col.bornMs[row] = (paths.length / count) * 60_000;
    objects.col.sizeBytes[row] = 16 + Math.floor(random() * 512);
    objects.col.probability[row] = 1;
    objects.col.originId[row] = recording.internOrigin(pathId, NONE, NONE, 0);
  }
  recording.reach(60_000);
  return recording;
}

for (const count of [50_000, 200_000]) {
  const recording = recordingOf(count);
  const { parentId } = recording.tables.paths.col;
  const baselineMs = medianMs(() => {
    let roots = 0;
    for (let pathId = 0; pathId < count; pathId++) if (parentId[pathId] === NONE || parentId[pathId] > count) roots++;
    return roots;
  });
  const of = `of ${count.toLocaleString('en')} paths`;
  const values = fateValues(spanSums(new ObjectIndex(recording), { fromMs: 0, toMs: 60_000 }, 1000), 'all');
  for (const recursion of ['folded', 'unfolded']) {
    const shape = pathShape(recording, recursion);
    report(
      `shape ${of}, recursion ${recursion}`,
      medianMs(() => pathShape(recording, recursion), 3),
      baselineMs,
      `${shape.length.toLocaleString('en')} nodes`,
    );
    const sums = pathSums(recording, shape, values.bytes, values.variance);
    report(
      `sums ${of}`,
      medianMs(() => pathSums(recording, shape, values.bytes, values.variance), 3),
      baselineMs,
    );
    for (const direction of ['entry', 'allocation']) {
      report(
        `first level from the ${direction} ${of}`,
        medianMs(() => new PathTree(shape, sums, direction).children(''), 3),
        baselineMs,
      );
      // Every node of the heaviest way down, each opened once in a tree that is there: the slowest is what a click
      // waits for.
      const tree = new PathTree(shape, sums, direction);
      tree.children('');
      let [slowestMs, opened] = [0, 0];
      for (let level = ['']; level.length > 0 && opened < 2000;) {
        const below = level
          .flatMap((id) => tree.children(id))
          .filter((node) => node.children > 0)
          .slice(0, 200);
        for (const node of below) {
          const from = performance.now();
          tree.children(node.id);
          slowestMs = Math.max(slowestMs, performance.now() - from);
          opened++;
        }
        level = below.map((node) => node.id);
      }
      report(
        `slowest node to open from the ${direction} ${of}`,
        slowestMs,
        baselineMs,
        `of ${opened.toLocaleString('en')}`,
      );
      report(
        `the heaviest way from the ${direction} ${of}`,
        medianMs(() => new PathTree(shape, sums, direction).heaviest(''), 3),
        baselineMs,
      );
      report(
        `picture from the ${direction} ${of}`,
        medianMs(
          () =>
            icicle(new PathTree(shape, sums, direction), '', { leastWidth: 1 / 600, mostDepth: 40, mostCells: 1200 }),
          3,
        ),
        baselineMs,
      );
    }
  }
}
