import { join } from 'node:path';
import { analysisReport, type AnalysisReport } from '../../core/src/measures/analysis-report.ts';
import { lastKnownAlive } from '../../core/src/analysis/last-known-alive.ts';
import type { Recording } from '../../core/src/model/recording.ts';
import { readRecording, recordUntil, scratch } from '../../../test/run-heron.ts';
import { compile, describeJvm, java, weirkeeper } from './jvm.ts';

interface Judged {
  readonly recording: Recording;
  readonly report: AnalysisReport;
}

describeJvm('weirkeeper', () => {
  let weirs = '';
  const runs = new Map<string, Judged>();

  // Two at a time, as there are cores; each long enough for its fault to show, and to as many whole collections as a
  // verdict needs.
  beforeAll(async () => {
    weirs = compile(weirkeeper);
    const lanes: [string, number][][] = [
      [
        ['schedule', 24],
        ['reports', 5],
      ],
      [
        ['rotas', 13],
        ['listeners', 9],
        ['fixed', 9],
        ['window', 6],
      ],
    ];
    await Promise.all(
      lanes.map(async (lane) => {
        for (const [fault, seconds] of lane)
          runs.set(fault, await judged(seconds, ...(fault === 'fixed' ? ['--fixed'] : ['--faults', fault])));
      }),
    );
  });

  async function judged(seconds: number, ...faults: string[]): Promise<Judged> {
    const out = join(scratch(), 'weirs.ndjson');
    const args = [
      'record',
      '--out',
      out,
      '--interval',
      '8192',
      '--cost',
      '0',
      '--collect',
      '1',
      '--',
      java(),
      '-XX:+UseParallelGC',
      '-Xms128m',
      '-Xmx128m',
      '-cp',
      weirs,
      'Weirkeeper',
      '240',
      ...faults,
    ];
    const enough = {
      sign: 'Pause Full (JvmtiEnv ForceGarbageCollection) ',
      times: faults.includes('schedule') ? 20 : 4,
      leastMs: seconds * 1000,
    };
    const end = await recordUntil(args, out, enough, (child) => child.kill('SIGTERM'));
    // A JVM ends by itself when it is asked to, and says so with its code.
    expect([end.code, end.stderr]).toEqual([143, '']);
    const recording = readRecording(out);
    return { recording, report: analysisReport(recording) };
  }

  const site = (report: AnalysisReport, start: string): AnalysisReport['sites'][number] => {
    const found = report.sites
      .filter((each) => each.site.startsWith(start))
      .sort((a, b) => b.allocBytes - a.allocBytes)[0];
    if (found === undefined)
      throw new Error(`no site begins with ${start}: ${report.sites.map((each) => each.site).join(', ')}`);
    return found;
  };

  test('with the key that has no equality grows from its schedules, without it it does not', () => {
    const { report } = runs.get('schedule')!;
    expect(report.verdict.kind).toBe('growing');
    expect(report.sites[0]!.site).toMatch(/^Weirkeeper\.Schedule\.<init> /);
    // What a schedule takes beside its numbers: the schedule, its key, and the map's node.
    const explained = report.sites.slice(0, 4).reduce((sum, each) => sum + Math.max(0, each.growthBytesPerSec ?? 0), 0);
    expect(explained / report.verdict.slopeBytesPerSec!).toBeGreaterThan(0.75);
    expect(explained / report.verdict.slopeBytesPerSec!).toBeLessThan(1.25);
    const { report: fixed } = runs.get('fixed')!;
    expect(fixed.verdict.kind).not.toBe('growing');
    expect(site(fixed, 'Weirkeeper.scheduleOf').keptBytes).toBeLessThan(0.05 * report.sites[0]!.keptBytes);
  });

  test('with listeners that stay keeps one history for each that was made', () => {
    const { report } = runs.get('listeners')!;
    const listeners = site(report, 'Weirkeeper.listen ');
    expect(listeners.type).toBe('double[]');
    // The youngest are too young to be called kept.
    expect(listeners.keptBytes / listeners.allocBytes).toBeGreaterThan(0.3);
    // On a slow machine too few were made to tell its pace well.
    expect(listeners.growthBytesPerSec).toBeGreaterThan(0);
  });

  test('with rotas keeps the buffers of the threads that were never ended', () => {
    const { report } = runs.get('rotas')!;
    const buffers = site(report, 'Weirkeeper.<init> (lambda)');
    // Two keepers a rota, a rota every ten seconds: those at the start are old enough to be called kept.
    expect(buffers.allocBytes).toBeGreaterThanOrEqual(4 * 192 * 1024);
    expect(buffers.keptBytes).toBeGreaterThanOrEqual(2 * 192 * 1024);
  });

  test('with a formatter for every reading churns, and keeps none', () => {
    const [{ report }, { report: fixed }] = [runs.get('reports')!, runs.get('fixed')!];
    const reports = site(report, 'Weirkeeper.report ');
    expect(reports.keptBytes).toBeLessThan(0.01 * reports.allocBytes);
    expect(report.sites.every((each) => each.allocBytes <= reports.allocBytes)).toBe(true);
    const perReading = (of: AnalysisReport): number =>
      site(of, 'Weirkeeper.report ').allocBytes / site(of, 'Weirkeeper.parse ').allocBytes;
    expect(perReading(report)).toBeGreaterThan(2 * perReading(fixed));
  });

  test('with its window promotes readings that die in the old space', () => {
    const { recording, report } = runs.get('window')!;
    expect(report.promotion!.totalBytes).toBeGreaterThan(20 * 1024 * 1024);
    const { objects, origins, collections } = recording.tables;
    const aliveMs = lastKnownAlive(recording);
    const youngEnds = Array.from({ length: collections.length }, (_, row) => collections.col.endMs[row]!);
    let outlived = 0;
    for (let row = 0; row < objects.length; row++) {
      const [born, died] = [objects.col.bornMs[row]!, objects.col.endMs[row]!];
      if (
        Number.isNaN(died) ||
        recording.strings.text(origins.col.typeId[objects.col.originId[row]!]!) !== 'Weirkeeper.Reading'
      )
        continue;
      if (!(aliveMs(row) >= born && aliveMs(row) <= died))
        throw new Error(`object ${row} was last known alive at ${aliveMs(row)}, born ${born}, died ${died}`);
      if (youngEnds.some((endMs) => endMs > born && endMs < died - 1)) outlived++;
    }
    expect(outlived).toBeGreaterThan(100);
  });
});
