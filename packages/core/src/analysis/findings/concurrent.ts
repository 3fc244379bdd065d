import { contains, spanLengthMs } from '../../base/span.ts';
import { formatClock, formatDuration, formatPercent } from '../../base/units.ts';
import { CollectionFlag, Scope } from '../../model/tables.ts';
import { type RuleInput, type Finding, type Moment, momentsOf, pausedMs, rowsFlagged } from './finding.ts';

/** Threads of the program that waited for memory. */
export function stalls(input: RuleInput): Finding[] {
  const { recording, span } = input;
  const { startMs, durationMs, threadId } = recording.tables.stalls.col;
  const rows: number[] = [];
  for (let row = 0; row < recording.tables.stalls.length; row++) if (contains(span, startMs[row]!)) rows.push(row);
  if (rows.length === 0) return [];
  const costMs = rows.reduce((sum, row) => sum + durationMs[row]!, 0);
  const threads = new Set(rows.map((row) => threadId[row]!)).size;
  const longest = rows.reduce((most, row) => (durationMs[row]! > durationMs[most]! ? row : most), rows[0]!);
  return [
    {
      code: 'stalls',
      sentence: `Threads of the program waited ${rows.length} times for the collector to free memory, ${formatDuration(costMs)} in all over ${threads} thread${threads === 1 ? '' : 's'}; longest ${formatDuration(durationMs[longest]!)} at ${formatClock(startMs[longest]!)}.`,
      rule: 'the runtime printed allocation or relocation stalls',
      certainty: 'certain',
      advice:
        'The program allocates faster than memory is freed beside it. Such waits are no pauses, but as bad for whoever waits: give the heap more room, give the collector more threads, or allocate less.',
      costMs,
      moments: rows.map((row): Moment => ({
        fromMs: startMs[row]!,
        toMs: startMs[row]! + durationMs[row]!,
        pauseRow: -1,
      })),
    },
  ];
}

/** A twentieth of a thread's time is felt. */
const PACED_RATIO = 0.05;

/** Threads of the program that were slowed down to leave the collector time. */
export function pacing(input: RuleInput): Finding[] {
  const { recording, span } = input;
  const { fromMs, toMs, pacedMs, threadId } = recording.tables.pacing.col;
  const rows: number[] = [];
  const threads = new Set<number>();
  let costMs = 0;
  for (let row = 0; row < recording.tables.pacing.length; row++) {
    if (!contains(span, fromMs[row]!) || pacedMs[row]! === 0) continue;
    costMs += pacedMs[row]!;
    threads.add(threadId[row]!);
    if (pacedMs[row]! > PACED_RATIO * (toMs[row]! - fromMs[row]!)) rows.push(row);
  }
  const ratio = costMs / (threads.size * spanLengthMs(span));
  if (!(ratio > PACED_RATIO)) return [];
  return [
    {
      code: 'pacing',
      sentence: `${threads.size} thread${threads.size === 1 ? ' was' : 's were'} slowed down to leave the collector time: ${formatDuration(costMs)} in all, ${formatPercent(ratio)} of each one’s time.`,
      rule: 'the runtime printed pacing of more than a twentieth of the paced threads’ time',
      certainty: 'certain',
      advice:
        'The program allocates faster than memory is freed beside it, and is held back in many small waits that no pause shows: give the heap more room, or allocate less.',
      costMs,
      moments: rows.map((row): Moment => ({ fromMs: fromMs[row]!, toMs: toMs[row]!, pauseRow: -1 })),
    },
  ];
}

/** Concurrent collections that had to stop the program to get done. */
export function degenerated(input: RuleInput): Finding[] {
  const rows = rowsFlagged(input, CollectionFlag.degenerated);
  if (rows.length === 0) return [];
  return [
    {
      code: 'degenerated',
      sentence: `${rows.length} concurrent collection${rows.length === 1 ? '' : 's'} could not keep up and ${rows.length === 1 ? 'was' : 'were'} finished with the program stopped; ${formatDuration(pausedMs(input, rows))} of pauses.`,
      rule: 'the runtime says that the collection degenerated',
      certainty: 'certain',
      advice:
        'Collections begin too late for this rate of allocation: let them begin earlier, give the heap more room, or allocate less.',
      costMs: pausedMs(input, rows),
      moments: momentsOf(input, rows),
    },
  ];
}

/** CMS collections that ran out of room before they were done. */
export function concurrentModeFailure(input: RuleInput): Finding[] {
  if (input.collector.kind !== 'cms') return [];
  const { scope, flags, causeId } = input.recording.tables.collections.col;
  const rows = input.rows.filter(
    (row) =>
      scope[row] === Scope.whole &&
      !(flags[row]! & (CollectionFlag.concurrentCycle | CollectionFlag.explicit)) &&
      input.recording.strings.text(causeId[row]!) === 'Allocation Failure',
  );
  if (rows.length === 0) return [];
  return [
    {
      code: 'concurrent-mode-failure',
      sentence: `${rows.length} time${rows.length === 1 ? '' : 's'} the old space was full before its concurrent collection was done, and all was collected with the program stopped; ${formatDuration(pausedMs(input, rows))} of pauses.`,
      rule: 'a whole-heap collection of CMS has the cause “Allocation Failure”',
      certainty: 'likely',
      advice: 'Begin concurrent collections at a lower occupancy, or give the old space more room.',
      costMs: pausedMs(input, rows),
      moments: momentsOf(input, rows),
    },
  ];
}
