import { PhaseKind, Recording, Scope } from '../dist/index.js';

/** Sites of a recording of many objects. */
export const SITES = 500;

/** A made-up recording of ten minutes with so many objects, nine in ten of which die. */
export function recordingOf(count) {
  const recording = new Recording('recording');
  recording.addHeap('main');
  const NONE = 0xffffffff;
  const origins = Array.from({ length: SITES }, (_, n) =>
    recording.internOrigin(
      recording.internPath(NONE, recording.internFrame(`site${n}`, `/srv/weir${n % 40}/main.js`, n, 1)),
      NONE,
      NONE,
      0,
    ),
  );
  const { objects, phases } = recording.tables;
  phases.col.kind[phases.addRow()] = PhaseKind.objects;
  phases.col.fromMs[0] = 0;
  let state = 1;
  for (let n = 0; n < count; n++) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    const row = objects.addRow();
    const { col } = objects;
    col.bornMs[row] = (n / count) * 600_000;
    col.bornEarlyMs[row] = col.bornLateMs[row] = 0;
    if (state % 10 < 9) {
      col.endMs[row] = col.bornMs[row] + (state % 5000);
      col.diedSlackMs[row] = 0;
    }
    col.sizeBytes[row] = 16 + (state % 512);
    col.probability[row] = 1;
    col.originId[row] = origins[state % SITES];
  }
  const { collections } = recording.tables;
  for (let tMs = 500; tMs < 600_000; tMs += 500) {
    const row = collections.addRow();
    collections.col.startMs[row] = collections.col.endMs[row] = tMs;
    collections.col.scope[row] = Scope.young;
  }
  recording.reach(600_000);
  return recording;
}
