import { formatClock, formatDuration, formatPercent } from '../../base/units.ts';
import { CollectionFlag } from '../../model/tables.ts';
import { median } from '../../stats/quantile.ts';
import { causeOfRow, momentsOf, pausedMs, type Evidence, type Finding } from './finding.ts';

const DIAGNOSTIC = /^(?:Diagnostic Command|Heap (?:Inspection|Dump) Initiated GC|JvmtiEnv ForceGarbageCollection)$/;
const PERIODIC = /^(?:G1 Periodic Collection|Timer|Proactive)$/;
const OUTSIDE =
  /^(?:Metadata GC (?:Threshold|Clear Soft References)|Metaspace|CodeCache GC (?:Threshold|Aggressive)|GCLocker Initiated GC|external memory pressure|external finalize)/;
const LEAST_REPEATED = 2;

/** Collections that the program asked for. */
export function explicit(evidence: Evidence): Finding[] {
  const { flags, startMs } = evidence.recording.tables.collections.col;
  const rows = evidence.rows.filter((row) => flags[row]! & CollectionFlag.explicit);
  if (rows.length === 0) return [];
  const every =
    rows.length > 2
      ? `, every ${formatDuration(median(rows.slice(1).map((row, n) => startMs[row]! - startMs[rows[n]!]!)))}`
      : '';
  return [
    {
      code: 'explicit',
      sentence: `${rows.length} explicit collection${rows.length === 1 ? '' : 's'}, all from the program${every}; ${formatDuration(pausedMs(evidence, rows))} of pauses.`,
      rule: 'the runtime says that the collection was asked for',
      certainty: 'certain',
      advice:
        evidence.kind === 'v8' || evidence.kind === 'go'
          ? 'Find who calls for a collection and take the call out: the runtime collects when it must.'
          : 'Find who calls System.gc() (the standard library does for direct buffers and for RMI, too). Where it cannot be taken out, the JVM can be told to do such collections beside the program, or not at all.',
      costMs: pausedMs(evidence, rows),
      moments: momentsOf(evidence, rows),
    },
  ];
}

/** Collections that a tool asked for. */
export function diagnostic(evidence: Evidence): Finding[] {
  const rows = evidence.rows.filter((row) => DIAGNOSTIC.test(causeOfRow(evidence, row)));
  if (rows.length === 0) return [];
  return [
    {
      code: 'diagnostic',
      sentence: `${rows.length} collection${rows.length === 1 ? ' was' : 's were'} asked for from outside the program (${[...new Set(rows.map((row) => causeOfRow(evidence, row)))].join(', ')}).`,
      rule: 'the cause is a diagnostic command, a heap dump or inspection, or an agent',
      certainty: 'certain',
      advice: 'Nothing of the program’s own: look for a monitor, a script or a colleague that inspects it.',
      costMs: pausedMs(evidence, rows),
      moments: momentsOf(evidence, rows),
    },
  ];
}

/** Collections that come by the clock. */
export function periodic(evidence: Evidence): Finding[] {
  const rows = evidence.rows.filter((row) => PERIODIC.test(causeOfRow(evidence, row)));
  if (rows.length < LEAST_REPEATED) return [];
  const { startMs } = evidence.recording.tables.collections.col;
  const gaps = rows.slice(1).map((row, n) => startMs[row]! - startMs[rows[n]!]!);
  return [
    {
      code: 'periodic',
      sentence: `${rows.length} collections came by the clock or ahead of need (${[...new Set(rows.map((row) => causeOfRow(evidence, row)))].join(', ')}), every ${formatDuration(median(gaps))}.`,
      rule: 'two or more collections have a periodic or proactive cause',
      certainty: 'certain',
      advice: 'Wanted where idle memory is to be given back; else the interval can be made longer or switched off.',
      costMs: pausedMs(evidence, rows),
      moments: momentsOf(evidence, rows),
    },
  ];
}

/** Collections whose cause lies outside the heap. */
export function outsideHeapCauses(evidence: Evidence): Finding[] {
  const rows = evidence.rows.filter((row) => OUTSIDE.test(causeOfRow(evidence, row)));
  if (rows.length === 0) return [];
  const causes = [...new Set(rows.map((row) => causeOfRow(evidence, row)))];
  const metaspace = causes.some((cause) => cause.startsWith('Meta'));
  const { startMs } = evidence.recording.tables.collections.col;
  return [
    {
      code: 'outside-cause',
      sentence: `${rows.length} collection${rows.length === 1 ? ' has its' : 's have their'} cause outside the heap (${causes.join(', ')}), the last at ${formatClock(startMs[rows[rows.length - 1]!]!)}; ${formatPercent(rows.length / evidence.rows.length)} of all.`,
      rule: 'the cause names metaspace, the code cache, a critical region of native code, or external memory',
      certainty: 'certain',
      advice: metaspace
        ? 'A few at the start are normal while classes load. If they go on, classes are made and dropped all the time (proxies, scripts, class loaders), or metaspace begins too small: set its first threshold higher.'
        : 'The heap is not what was short: look at memory held outside it, by native code or by compiled code.',
      costMs: pausedMs(evidence, rows),
      moments: momentsOf(evidence, rows),
    },
  ];
}
