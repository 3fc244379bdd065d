import { type AnalysisReport, formatBytes, formatClock, formatDuration, formatPercent } from '@brisk-heron/core';

const MOST_SITES = 10;
const LABEL_WIDTH = 14;

/** The report as text for people: pure, ends with a newline. */
export function renderText(report: AnalysisReport): string {
  const { pauses, collections, heap, allocation, source, verdict } = report;
  const lines = [
    verdict.sentence,
    ...(report.missing === undefined ? [] : [`Of a part only: ${report.missing}`]),
    '',
    row(
      'source',
      `${source.runtime}${source.collector === '' ? '' : `, ${source.collector}`} (${source.format}), ${source.lines} lines`,
    ),
    row('duration', duration(report.durationMs)),
    row(
      'pauses',
      `${pauses.count}, ${formatDuration(pauses.totalMs)} in all; p50 ${duration(pauses.p50Ms)}, p99 ${duration(pauses.p99Ms)}, longest ${duration(pauses.maxMs)}`,
    ),
    row('throughput', pauses.throughputRatio === null ? 'unknown' : formatPercent(pauses.throughputRatio)),
    row(
      'collections',
      `${report.silences === undefined ? '' : 'at least '}${collections.young} young, ${collections.mixed} mixed, ${collections.whole} whole, ${collections.concurrentCycles} concurrent cycles; ${collections.storms} storms`,
    ),
    row(
      'heap',
      `peak ${bytes(heap.peakUsedBytes)}, last used after ${bytes(heap.lastUsedAfterBytes)}, limit ${bytes(heap.limitBytes)}`,
    ),
    row('allocation', allocation === null ? 'unknown' : allocationText(allocation)),
    ...(report.thinned === undefined ? [] : [row('thinned', report.thinned.sentence)]),
    ...lostLines(report),
    ...outsideLines(report),
    ...runLines(report),
  ];
  if (report.samples !== undefined)
    lines.push(
      row(
        'samples',
        `${Math.round(report.samples.taken).toLocaleString('en')} taken, ${report.samples.seenRatio === null ? 'none' : formatPercent(report.samples.seenRatio)} of them seen one by one`,
      ),
    );
  for (const { fromMs, toMs, heap } of report.silences ?? [])
    lines.push(
      row(
        'not heard',
        `${heap ?? 'a heap'} from ${formatClock(fromMs)} to ${formatClock(toMs)}: its event loop stood still, and collections are told through it`,
      ),
    );
  if (source.issues.count > 0)
    lines.push(
      row(
        'left out',
        `${source.issues.count} lines: ${Object.entries(source.issues.byCode)
          .map(([code, count]) => `${code} ${count}`)
          .join(', ')}`,
      ),
    );
  return `${[...lines, ...findingLines(report), ...siteLines(report)].join('\n')}\n`;
}

function allocationText({
  totalBytes,
  bytesPerSec,
  lowBytes,
  highBytes,
  lowerBound,
}: NonNullable<AnalysisReport['allocation']>): string {
  const rate = bytesPerSec === null ? '' : `, ${formatBytes(bytesPerSec)}/s`;
  if (highBytes === null)
    return `at least ${formatBytes(lowBytes)}${lowerBound ? `; ${formatBytes(totalBytes)} by the sizes around collections` : ''}${rate}`;
  return `${formatBytes(totalBytes)} (${formatBytes(lowBytes)}–${formatBytes(highBytes)})${rate}`;
}

function lostLines({ lost }: AnalysisReport): string[] {
  if (lost === undefined) return [];
  const waits =
    lost.threads === 0
      ? ''
      : `; ${lost.threads} threads waited ${formatDuration(lost.waitedMs + lost.pacedMs)} for memory, ${lost.worstThread} lost ${formatPercent(lost.worstRatio)} of its time`;
  return [
    row(
      'lost',
      `${lost.ratio === null ? 'unknown' : formatPercent(lost.ratio)} of the time${waits}${lost.otherStopsMs > 0 ? `; ${formatDuration(lost.otherStopsMs)} of stops that are no pauses` : ''}`,
    ),
  ];
}

function outsideLines({ verdict }: AnalysisReport): string[] {
  const text = (series: NonNullable<typeof verdict.outside>): string =>
    `${series.kind}${series.slopeBytesPerSec === null ? '' : `, ${formatBytes(series.slopeBytesPerSec * 60)}/min`}, now ${bytes(series.levelBytes)}`;
  return [
    ...(verdict.outside === null ? [] : [row('outside', text(verdict.outside))]),
    ...(verdict.resident === null ? [] : [row('resident', text(verdict.resident))]),
  ];
}

function runLines({ verdict: { run, changed } }: AnalysisReport): string[] {
  const then = changed.length === 0 ? [] : [row('then', changed.join('; '))];
  if (run === null) return then;
  const peak = run.peakMs === null ? '' : `: most at ${formatClock(run.peakMs)}, ${bytes(run.peakBytes)}`;
  return [
    ...then,
    row('run', `ended after ${formatDuration(run.lengthMs)}${run.outOfMemory ? ' for want of memory' : ''}${peak}`),
    ...run.peakSites.map((site) =>
      row(
        '',
        `${formatPercent(site.shareRatio)} of what lived then: ${formatBytes(site.bytes)} ± ${formatBytes(1.96 * site.bytesSe)} from ${site.site}`,
      ),
    ),
    ...(run.churnedBytes === null
      ? []
      : [
          row(
            'churned',
            `${formatBytes(run.churnedBytes)}${run.churnSites
              .slice(0, 2)
              .map((site) => `; ${formatPercent(site.shareRatio)} by ${site.site}`)
              .join('')}`,
          ),
        ]),
    ...(run.perMark === null
      ? []
      : [
          row(
            'each',
            `${run.perMark.label}: ${formatBytes(run.perMark.bytesPerMark)} more stay (${formatBytes(run.perMark.low)}–${formatBytes(run.perMark.high)}), over ${run.perMark.marks}`,
          ),
        ]),
  ];
}

function findingLines(report: AnalysisReport): string[] {
  if (report.collections.count === 0) return [];
  if (report.findings.length === 0) return ['', 'No problem was found in how it collects.'];
  return [
    '',
    ...report.findings.flatMap(({ sentence, certainty, advice }) => [
      `- ${sentence}${certainty === 'certain' ? '' : ` (${certainty})`}`,
      `  ${advice}`,
    ]),
  ];
}

function siteLines(report: AnalysisReport): string[] {
  if (report.sites.length === 0) return [];
  const header = `${'adds/min'.padStart(12)} ${'of growth'.padStart(10)} ${'kept'.padStart(12)} ${'allocated'.padStart(12)}  site`;
  return [
    '',
    header,
    ...report.sites
      .slice(0, MOST_SITES)
      .map((site) =>
        [
          bytes(site.growthBytesPerSec === null ? null : site.growthBytesPerSec * 60).padStart(12),
          formatPercent(site.growthShareRatio).padStart(10),
          formatBytes(site.keptBytes).padStart(12),
          formatBytes(site.allocBytes).padStart(12),
          ` ${site.site}`,
        ].join(' '),
      ),
  ];
}

function row(label: string, text: string): string {
  return `${label.padEnd(LABEL_WIDTH)}${text}`;
}

function bytes(value: number | null): string {
  return value === null ? 'unknown' : formatBytes(value);
}

function duration(ms: number | null): string {
  return ms === null ? 'unknown' : formatDuration(ms);
}
