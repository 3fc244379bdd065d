import { analysisReport } from '../../src/measures/analysis-report.ts';
import { wholeSpan } from '../../src/model/whole-span.ts';
import { chargeTable } from '../../src/analysis/charge-table.ts';
import { ObjectIndex } from '../../src/analysis/object-index.ts';
import { spanSums } from '../../src/analysis/span-sums.ts';
import { StreamParser } from '../../src/formats/stream/stream-parser.ts';
import { bytesVariance, estimatedBytes } from '../../src/stats/horvitz-thompson.ts';
import { chargeText } from '../../src/model/charge.ts';

const SITES = 4;
const ROUNDS = 300;
const AT_ONCE = 40;

/**
 * Objects of four sites: of each forty one is kept, the others die a second later. Sampled at 1 in 4, or told as
 * estimates alone.
 */
function stream(sampled: boolean): string {
  const lines: object[] = [
    {
      k: 'hello',
      schema: 'brisk-heron/stream@1',
      h: '1',
      epochMs: 1_800_000_000_000,
      program: 'weirs',
      runtime: 'r',
      births: 'all',
    },
    {
      k: 'frames',
      h: '1',
      first: 0,
      fn: ['a', 'b', 'c', 'd'],
      file: ['f', 'f', 'f', 'f'],
      line: [1, 2, 3, 4],
      col: [1, 1, 1, 1],
    },
    { k: 'paths', h: '1', first: 0, parent: [-1, -1, -1, -1], frame: [0, 1, 2, 3] },
  ];
  for (let round = 0; round < ROUNDS; round++) {
    const id = Array.from({ length: AT_ONCE }, (_, n) => round * AT_ONCE + n);
    lines.push({
      k: 'born',
      h: '1',
      from: round * 1000,
      to: round * 1000 + 900,
      id,
      path: id.map((each) => each % SITES),
      size: id.map((each) => 1000 * (1 + (each % SITES))),
      ...(sampled ? { p: id.map(() => 0.25) } : {}),
    });
    lines.push({ k: 'died', h: '1', from: round * 1000 + 900, to: round * 1000 + 950, id: id.slice(1) });
    lines.push({
      k: 'gc',
      h: '1',
      t: round * 1000 + 950,
      ms: 1,
      scope: 'whole',
      label: 'gc',
      before: 2e6 + round * 1000,
      after: 1e6 + round * 1000,
    });
  }
  return lines.map((line) => `${JSON.stringify(line)}\n`).join('');
}

function parsed(text: string, mostObjects: number, step = text.length) {
  const parser = new StreamParser(mostObjects);
  const bytes = new TextEncoder().encode(text);
  for (let at = 0; at < bytes.length; at += step) parser.write(bytes.slice(at, at + step));
  parser.end();
  return parser.recording;
}

function bySite(recording: ReturnType<typeof parsed>) {
  const table = chargeTable(recording, spanSums(new ObjectIndex(recording), wholeSpan(recording)), 'site');
  return new Map(table.rows.map((row) => [chargeText(recording, 'site', row.key).slice(0, 1), row]));
}

function sumOf({
  tables: {
    objects: { length, col },
  },
}: ReturnType<typeof parsed>): { bytes: number; variance: number } {
  let [bytes, variance] = [0, 0];
  for (let row = 0; row < length; row++) {
    bytes += estimatedBytes(col.sizeBytes[row]!, col.probability[row]!);
    variance += bytesVariance(col.sizeBytes[row]!, col.probability[row]!);
  }
  return { bytes, variance };
}

describe.each([
  ['sampled objects', true],
  ['estimates alone', false],
])('of %s', (_, sampled) => {
  const text = stream(sampled);
  const whole = parsed(text, Infinity);
  const thinned = parsed(text, 1500);

  test('no more are held than is said, and what lives is all there', () => {
    expect(thinned.tables.objects.length).toBeLessThanOrEqual(1500);
    expect(whole.tables.objects.length).toBe(ROUNDS * AT_ONCE);
    const living = (recording: typeof whole): number =>
      recording.tables.objects.col.endMs.subarray(0, recording.tables.objects.length).filter((ms) => Number.isNaN(ms))
        .length;
    expect(living(thinned)).toBe(ROUNDS);
    expect(thinned.thinnings.length).toBeGreaterThan(3);
  });

  test('sums keep their worth within their errors, which have grown', () => {
    const [of, in_] = [bySite(whole), bySite(thinned)];
    for (const [site, row] of of) {
      const thin = in_.get(site)!;
      expect(Math.abs(thin.allocBytes - row.allocBytes)).toBeLessThan(4 * Math.sqrt(thin.allocBytesSe ** 2));
      expect(thin.allocBytesSe).toBeGreaterThan(row.allocBytesSe);
      expect(thin.keptBytes).toBeCloseTo(row.keptBytes, 3);
    }
  });

  test('however the input was cut, the recording is the same', () => {
    const cut = parsed(text, 1500, 777);
    expect(cut.tables.objects.length).toBe(thinned.tables.objects.length);
    expect(cut.tables.objects.col.bornMs.slice(0, cut.tables.objects.length)).toEqual(
      thinned.tables.objects.col.bornMs.slice(0, cut.tables.objects.length),
    );
  });
});

test('over many draws the sum is right, and so is its error', () => {
  const text = stream(true);
  const lines = text.split('\n');
  const deviations: number[] = [];
  // Another beginning gives other draws.
  for (let run = 0; run < 40; run++) {
    const other = [
      ...lines.slice(0, 3),
      `{"k":"born","h":"1","from":0,"to":1,"id":[${Array.from({ length: run + 1 }, (_, n) => 1e6 + n).join()}],"path":[${Array.from({ length: run + 1 }, () => 3).join()}],"size":[${Array.from({ length: run + 1 }, () => 1).join()}],"p":[${Array.from({ length: run + 1 }, () => 1).join()}]}`,
      ...lines.slice(3),
    ].join('\n');
    const [whole, thinned] = [sumOf(parsed(other, Infinity)), sumOf(parsed(other, 1500))];
    // The error of thinning alone.
    deviations.push((thinned.bytes - whole.bytes) / Math.sqrt(thinned.variance - whole.variance));
  }
  const mean = deviations.reduce((sum, each) => sum + each, 0) / deviations.length;
  const spread = Math.sqrt(deviations.reduce((sum, each) => sum + (each - mean) ** 2, 0) / deviations.length);
  expect(Math.abs(mean)).toBeLessThan(0.5);
  expect(spread).toBeGreaterThan(0.65);
  expect(spread).toBeLessThan(1.4);
});

test('an index that was brought up before a thinning counts as one that is made anew', () => {
  const bytes = new TextEncoder().encode(stream(true));
  const parser = new StreamParser(1500);
  parser.write(bytes.slice(0, bytes.length >> 1));
  const index = new ObjectIndex(parser.recording);
  index.update();
  parser.write(bytes.slice(bytes.length >> 1));
  parser.end();
  const span = wholeSpan(parser.recording);
  const of = (from: ObjectIndex) =>
    chargeTable(parser.recording, spanSums(from, span), 'site').rows.map(({ allocBytes, keptBytes, samples }) => [
      allocBytes,
      keptBytes,
      samples,
    ]);
  expect(of(index)).toEqual(of(new ObjectIndex(parser.recording)));
  expect(analysisReport(parser.recording).thinned).toMatchObject({
    sentence: expect.stringMatching(
      /^Of objects that were born before \d:\d\d and have died, one in \d+ was kept/,
    ) as string,
  });
});
