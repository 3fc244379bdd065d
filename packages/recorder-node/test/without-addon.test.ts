import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { analysisReport } from '../../core/src/measures/analysis-report.ts';
import { askMeasure } from '../../core/src/measures/registry.ts';
import type { SitesAnswer } from '../../core/src/measures/sites.ts';
import { PhaseKind } from '../../core/src/model/tables.ts';
import { Study } from '../../core/src/study/study.ts';
import { readRecording, recordUntil, runHeron, scratch } from '../../../test/run-heron.ts';

const program = (name: string): string => join(__dirname, 'programs', name);

describe('without the addon', () => {
  let recording: ReturnType<typeof readRecording>;

  beforeAll(async () => {
    const out = join(scratch(), 'inspector.ndjson');
    const stop = join(scratch(), 'stop-inspector');
    const args = [
      'record',
      '--no-addon',
      '--out',
      out,
      '--births',
      '1000',
      '--floor-every',
      '500',
      '--interval',
      '16384',
      '--',
      'node',
      program('leaky.mjs'),
      stop,
    ];
    expect(
      await recordUntil(args, out, { sign: '"k":"poll"', times: 8, leastMs: 10_000 }, () => writeFileSync(stop, '')),
    ).toMatchObject({ code: 0, stderr: '' });
    recording = readRecording(out);
  });

  test('births come first, then survivors, and the recording says what it is', () => {
    const { kind } = recording.tables.phases.col;
    expect(Array.from(kind.subarray(0, recording.tables.phases.length))).toEqual([
      PhaseKind.births,
      PhaseKind.births,
      PhaseKind.survivors,
    ]);
    expect(recording.notes.map((note) => note.code)).toEqual(
      expect.arrayContaining(['without-addon', 'inlining', 'not-seen', 'polls']),
    );
    expect(recording.heaps[0]!.seesAllBirths).toBe(false);
  });

  test('sites add up to no more than was allocated, and what is inferred says how unsure it is', () => {
    const report = analysisReport(recording);
    expect(report.sites.reduce((sum, site) => sum + site.allocBytes, 0)).toBeLessThan(
      1.15 * report.allocation!.totalBytes,
    );
    const inferred = report.sites.filter((site) => site.inferredBytes > 0.5 * site.allocBytes);
    expect(inferred.length).toBeGreaterThan(0);
    for (const site of inferred) expect(site.allocBytesSe).toBeGreaterThan(0.25 * site.inferredBytes);
  });
});

test('work that began after births were watched is nobody’s who is known, and not somebody else’s', async () => {
  const folder = scratch();
  const [out, file] = [join(folder, 'late.ndjson'), join(folder, 'late.cjs')];
  writeFileSync(
    file,
    `const began = Date.now(), made = { steady: 0, late: 0 };
    let sum = 0;
    function steady() { for (let n = 0; n < 300; n++) sum += new Array(200).fill(n).length; made.steady += 300 * 1648; }
    function late() { for (let n = 0; n < 3000; n++) sum += new Array(200).fill(n).length; made.late += 3000 * 1648; }
    const timer = setInterval(() => {
      steady();
      if (Date.now() - began > 6000) late();
      if (Date.now() - began < 12_000) return;
      clearInterval(timer);
      console.log(JSON.stringify(made));
    }, 10);`,
  );
  const end = await runHeron(['record', '--no-addon', '--exact', '--births', '2000', '--out', out, '--', 'node', file]);
  const made = JSON.parse(end.stdout) as { steady: number; late: number };
  const recording = readRecording(out);
  const { sites } = analysisReport(recording);
  const nobody = sites.find(({ site }) => site === '(not seen)')!;
  expect(nobody.allocBytes / made.late).toBeGreaterThan(0.6);
  expect(nobody.allocBytes / made.late).toBeLessThan(1.1);
  const steady = sites.find(({ site }) => site.startsWith('steady '))!;
  expect(Math.abs(steady.allocBytes - made.steady)).toBeLessThan(1.96 * steady.allocBytesSe);
  // Of everything together it is known how much that was.
  const { allocBytes, allocBytesSe } = askMeasure(
    new Study({ runs: [recording] }),
    { extent: { kind: 'whole' } },
    'sites',
    {},
  ) as SitesAnswer;
  expect(allocBytesSe).toBeLessThan(0.05 * allocBytes);
  // Before, it was given all that was allocated.
  expect(steady.allocBytes).toBeLessThan(0.6 * (made.steady + made.late));
});
