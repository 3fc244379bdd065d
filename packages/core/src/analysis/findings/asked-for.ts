import { formatClock, formatDuration, formatPercent } from '../../base/units.ts';
import type { CauseTraits } from '../../model/runtime-traits.ts';
import { CollectionFlag } from '../../model/tables.ts';
import { median } from '../../stats/quantile.ts';
import { causeOfRow, type RuleInput, type Finding, momentsOf, pausedMs, rowsByCause, rowsFlagged } from './finding.ts';

const LEAST_REPEATED = 2;

/** Collections that the program asked for. */
export function explicit(input: RuleInput): Finding[] {
  const { startMs } = input.recording.tables.collections.col;
  const rows = rowsFlagged(input, CollectionFlag.explicit);
  if (rows.length === 0) return [];
  const every =
    rows.length > 2
      ? `, every ${formatDuration(median(rows.slice(1).map((row, n) => startMs[row]! - startMs[rows[n]!]!)))}`
      : '';
  return [
    {
      code: 'explicit',
      sentence: `${rows.length} explicit collection${rows.length === 1 ? '' : 's'}, all from the program${every}; ${formatDuration(pausedMs(input, rows))} of pauses.`,
      rule: 'the runtime says that the collection was asked for',
      certainty: 'certain',
      advice: input.recording.traits.askedForAdvice,
      costMs: pausedMs(input, rows),
      moments: momentsOf(input, rows),
    },
  ];
}

function rowsOfCause(input: RuleInput, kind: keyof CauseTraits): number[] {
  const { heaps, traits } = input.recording;
  return rowsByCause(input, (heapId, cause) => (heaps[heapId]?.traits ?? traits).causes[kind]?.test(cause) === true);
}

/** Collections that a tool asked for. */
export function diagnostic(input: RuleInput): Finding[] {
  const rows = rowsOfCause(input, 'diagnostic');
  if (rows.length === 0) return [];
  return [
    {
      code: 'diagnostic',
      sentence: `${rows.length} collection${rows.length === 1 ? ' was' : 's were'} asked for from outside the program (${[...new Set(rows.map((row) => causeOfRow(input, row)))].join(', ')}).`,
      rule: 'the cause is a diagnostic command, a heap dump or inspection, or an agent',
      certainty: 'certain',
      advice: 'Nothing of the program’s own: look for a monitor, a script or a colleague that inspects it.',
      costMs: pausedMs(input, rows),
      moments: momentsOf(input, rows),
    },
  ];
}

/** Collections that come by the clock. */
export function periodic(input: RuleInput): Finding[] {
  const rows = rowsOfCause(input, 'periodic');
  if (rows.length < LEAST_REPEATED) return [];
  const { startMs } = input.recording.tables.collections.col;
  const gaps = rows.slice(1).map((row, n) => startMs[row]! - startMs[rows[n]!]!);
  return [
    {
      code: 'periodic',
      sentence: `${rows.length} collections came by the clock or ahead of need (${[...new Set(rows.map((row) => causeOfRow(input, row)))].join(', ')}), every ${formatDuration(median(gaps))}.`,
      rule: 'two or more collections have a periodic or proactive cause',
      certainty: 'certain',
      advice: 'Wanted where idle memory is to be given back; else the interval can be made longer or switched off.',
      costMs: pausedMs(input, rows),
      moments: momentsOf(input, rows),
    },
  ];
}

/** Collections whose cause lies outside the heap. */
export function outsideHeapCauses(input: RuleInput): Finding[] {
  const rows = rowsOfCause(input, 'outside');
  if (rows.length === 0) return [];
  const causes = [...new Set(rows.map((row) => causeOfRow(input, row)))];
  const metaspace = causes.some((cause) => cause.startsWith('Meta'));
  const { startMs } = input.recording.tables.collections.col;
  return [
    {
      code: 'outside-cause',
      sentence: `${rows.length} collection${rows.length === 1 ? ' has its' : 's have their'} cause outside the heap (${causes.join(', ')}), the last at ${formatClock(startMs[rows[rows.length - 1]!]!)}; ${formatPercent(rows.length / input.rows.length)} of all.`,
      rule: 'the cause names metaspace, the code cache, a critical region of native code, or external memory',
      certainty: 'certain',
      advice: metaspace
        ? 'A few at the start are normal while classes load. If they go on, classes are made and dropped all the time (proxies, scripts, class loaders), or metaspace begins too small: set its first threshold higher.'
        : 'The heap is not what was short: look at memory held outside it, by native code or by compiled code.',
      costMs: pausedMs(input, rows),
      moments: momentsOf(input, rows),
    },
  ];
}
