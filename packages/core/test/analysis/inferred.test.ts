import { inferredFlows } from '../../src/analysis/inferred-flows.ts';
import { NONE } from '../../src/base/ids.ts';
import { Recording } from '../../src/model/recording.ts';
import { addOriginNotSeen, originNotSeen } from '../../src/model/not-seen.ts';
import { PhaseKind } from '../../src/model/tables.ts';
import { addCollection } from '../build-recording.ts';

function phase(recording: Recording, heapId: number, kind: number, fromMs: number, toMs: number): void {
  const row = recording.tables.phases.addRow();
  const { col } = recording.tables.phases;
  col.kind[row] = kind;
  col.fromMs[row] = fromMs;
  col.toMs[row] = toMs;
  col.heapId[row] = heapId;
}

function flow(
  recording: Recording,
  heapId: number,
  site: string,
  bytes: number,
  span: readonly [number, number],
): number {
  const path = recording.internPath(NONE, recording.internFrame(site, `/srv/${site}.js`, 1, 1));
  const row = recording.tables.flows.addRow();
  const { col } = recording.tables.flows;
  col.fromMs[row] = span[0];
  col.toMs[row] = span[1];
  col.bytes[row] = bytes;
  col.seBytes[row] = bytes / 10;
  return (col.originId[row] = recording.internOrigin(path, NONE, NONE, heapId));
}

/** Two heaps; each watches births twice, then follows survivors from 2 s to 10 s. */
function world(): { recording: Recording; parse: number; load: number; render: number } {
  const recording = new Recording('recording');
  const heaps = [recording.addHeap('main'), recording.addHeap('worker')];
  for (const heap of heaps) {
    phase(recording, heap, PhaseKind.births, 0, 1000);
    phase(recording, heap, PhaseKind.births, 1000, 2000);
    phase(recording, heap, PhaseKind.survivors, 2000, NaN);
  }
  const load = flow(recording, 0, 'load', 9000, [0, 1000]);
  const parse = flow(recording, 0, 'parse', 3000, [1000, 2000]);
  flow(recording, 0, 'check', 1000, [1000, 2000]);
  const render = flow(recording, 1, 'render', 500, [1000, 2000]);
  for (let t = 2000; t <= 10_000; t += 1000) {
    addCollection(recording, { startMs: t, ms: 0, before: 4000, after: 0, heapId: 0 });
    addCollection(recording, { startMs: t, ms: 0, before: 100, after: 0, heapId: 1 });
  }
  return { recording, parse, load, render };
}

test('what came and went unseen is shared out by the births phase right before, heap by heap', () => {
  const { recording, parse, load, render } = world();
  const flows = new Map(inferredFlows(recording, { fromMs: 0, toMs: 10_000 }).map((each) => [each.originId, each]));
  expect(flows.get(parse)!.bytes).toBeCloseTo(8 * 4000 * 0.75, 6);
  // Sampling, half of its own part, and a tenth of all.
  expect(flows.get(parse)!.seBytes).toBeCloseTo(Math.hypot(8 * 300, 8 * 1500, 8 * 400), 6);
  expect(flows.get(render)!.bytes).toBeCloseTo(8 * 100, 6);
  expect(flows.has(load)).toBe(false);
});

test('a span inside the survivors phase gets its part', () => {
  const { recording, parse } = world();
  const [first] = inferredFlows(recording, { fromMs: 4000, toMs: 6000 }).filter((each) => each.originId === parse);
  expect(first!.bytes).toBeCloseTo(2 * 4000 * 0.75, 6);
});

test('without flows nothing is inferred', () => {
  expect(inferredFlows(new Recording('recording'), { fromMs: 0, toMs: 1000 })).toEqual([]);
});

describe('a program that does more than in its births phase', () => {
  /** As `world`, but that main allocates ten times as much from 5 s on, and something late survives of it. */
  function rushing(): ReturnType<typeof world> {
    const made = world();
    const { recording } = made;
    addOriginNotSeen(recording, 0);
    for (let t = 5100; t < 10_000; t += 100)
      if (t % 1000 !== 0) addCollection(recording, { startMs: t, ms: 0, before: 4000, after: 0, heapId: 0 });
    return made;
  }

  test('what is beyond the work of then is nobody’s who is known, and may be anybody’s', () => {
    const { recording, parse } = rushing();
    const flows = new Map(inferredFlows(recording, { fromMs: 0, toMs: 10_000 }).map((each) => [each.originId, each]));
    const nobody = flows.get(originNotSeen(recording, 0))!;
    // Of the five windows of a second with 40,000 bytes each, all but one and a half times 4,000.
    expect(nobody.bytes).toBeCloseTo(5 * (40_000 - 6000), 6);
    expect(flows.get(parse)!.bytes).toBeCloseTo(0.75 * (3 * 4000 + 5 * 6000), 6);
    // All that is beyond may be of one path.
    expect(1.96 * flows.get(parse)!.seBytes).toBeGreaterThan(nobody.bytes);
    const all = [...flows.values()].filter(({ originId }) => recording.tables.origins.col.heapId[originId] === 0);
    expect(all.reduce((sum, { bytes }) => sum + bytes, 0)).toBeCloseTo(3 * 4000 + 5 * 40_000, 6);
  });

  test('parts of a span add up to it', () => {
    const { recording } = rushing();
    const nobody = originNotSeen(recording, 0);
    const beyond = (fromMs: number, toMs: number): number =>
      inferredFlows(recording, { fromMs, toMs }).find(({ originId }) => originId === nobody)?.bytes ?? 0;
    expect(beyond(0, 5500) + beyond(5500, 7250) + beyond(7250, 10_000)).toBeCloseTo(beyond(0, 10_000), 6);
    expect(beyond(2000, 5000)).toBe(0);
  });
});
