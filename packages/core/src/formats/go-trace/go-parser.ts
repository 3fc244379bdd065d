import type { LineBatch } from '../../base/line-batch.ts';
import { snippet } from '../../base/issues.ts';
import { MIB } from '../../base/units.ts';
import { CollectionFlag, Scope } from '../../model/tables.ts';
import { GO } from '../../runtimes/go.ts';
import { ByteTemplate } from '../byte-template.ts';
import { ascii, standsAt } from '../byte-text.ts';
import { LineLog } from '../line-log.ts';
import type { Format } from '../log-parser.ts';

/** Go's `GODEBUG=gctrace=1`. */
export const goTrace: Format = {
  name: 'go-trace',
  words: 'Go gctrace=1 lines',
  runtime: GO,
  detect: (headLines) => headLines.filter((line) => LINE.test(line)).length / Math.max(1, headLines.length),
  createParser: () => {
    const log: LineLog = new LineLog(
      'go-trace',
      { runtime: 'Go', traits: GO },
      (line, number, offset) => take(log, line, number, offset),
      (batch, from, to, number, offset) => takeBytes(log, { batch, from, to }, number, offset),
    );
    log.recording.collector = 'Go';
    log.recording.freesConcurrently = true;
    return log;
  },
};

// gc 5 @0.128s 1%: 1.3+1.2+0.003 ms clock, 2.6+0.34/0/0+0.007 ms cpu, 3->3->2 MB, 4 MB goal, 0 MB stacks, 0 MB globals,
// 2 P (forced)
const LINE =
  /\bgc (\d+) @(\d+(?:\.\d+)?)s \d+%: ([\d.]+)\+([\d.]+)\+([\d.]+) ms clock, [\d.+/]+ ms cpu, (\d+)->(\d+)->(\d+) MB, (\d+) MB goal,.*? \d+ P( \(forced\))?\s*$/;
const LOOKS = /\bgc \d+ @[\d.]+s /;

/** The same in its bytes, up to what the line ends with. */
const CYCLE = new ByteTemplate(
  'gc %d @%fs %d%: %f+%f+%f ms clock, %* ms cpu, %d->%d->%d MB, %d MB goal, %d MB stacks, %d MB globals, %d P',
);
const FORCED = ascii(' (forced)');

interface GoCycle {
  readonly startMs: number;
  readonly sweepMs: number;
  readonly markMs: number;
  readonly endMarkMs: number;
  readonly beforeMib: number;
  readonly endMib: number;
  readonly liveMib: number;
  readonly goalMib: number;
  readonly forced: boolean;
}

function takeBytes(
  log: LineLog,
  { batch, from, to }: { readonly batch: LineBatch; readonly from: number; readonly to: number },
  number: number,
  offset: number,
): boolean {
  if (!CYCLE.fits(batch, from)) return false;
  const forced = CYCLE.end !== to && standsAt(batch.view, CYCLE.end, FORCED);
  if (CYCLE.end + (forced ? FORCED.length : 0) !== to) return false;
  const [, atSeconds, , sweepMs, markMs, endMarkMs, beforeMib, endMib, liveMib, goalMib] = CYCLE.values;
  add(
    log,
    {
      startMs: atSeconds! * 1000,
      sweepMs: sweepMs!,
      markMs: markMs!,
      endMarkMs: endMarkMs!,
      beforeMib: beforeMib!,
      endMib: endMib!,
      liveMib: liveMib!,
      goalMib: goalMib!,
      forced,
    },
    number,
    offset,
  );
  return true;
}

function take(log: LineLog, line: string, number: number, offset: number): void {
  const found = LINE.exec(line);
  if (found === null) {
    if (LOOKS.test(line))
      log.issue(
        'cut-line',
        number,
        offset,
        `expected "gc N @…s …%: … ms clock, … MB goal, … P", found ${snippet(line)}; is the line cut off? The line was left out`,
      );
    return;
  }
  const numbers = found.map(Number);
  add(
    log,
    {
      startMs: numbers[2]! * 1000,
      sweepMs: numbers[3]!,
      markMs: numbers[4]!,
      endMarkMs: numbers[5]!,
      beforeMib: numbers[6]!,
      endMib: numbers[7]!,
      liveMib: numbers[8]!,
      goalMib: numbers[9]!,
      forced: found[10] !== undefined,
    },
    number,
    offset,
  );
}

/**
 * One cycle a line: the heap at its start, at its end, and what of it lived. Its pause is the sum of its two (end of
 * sweeping, end of marking), which is how the runtime itself counts (`MemStats.PauseNs`), placed at its start.
 */
function add(log: LineLog, cycle: GoCycle, number: number, offset: number): void {
  const { startMs, sweepMs, markMs, endMarkMs, forced } = cycle;
  const endMs = startMs + sweepMs + markMs + endMarkMs;
  if (log.refuses({ startMs, endMs, pauseMs: sweepMs + endMarkMs }, number, offset)) return;
  const row = log.add({
    startMs,
    endMs,
    pauseMs: Math.round((sweepMs + endMarkMs) * 1e6) / 1e6,
    label: 'gc',
    cause: forced ? 'forced' : '',
    scope: Scope.whole,
    flags: CollectionFlag.concurrentCycle | CollectionFlag.ownSizes | (forced ? CollectionFlag.explicit : 0),
    line: number,
  });
  const { collections, releases } = log.recording.tables;
  const [beforeBytes, endBytes, liveBytes] = [cycle.beforeMib * MIB, cycle.endMib * MIB, cycle.liveMib * MIB];
  collections.col.usedBeforeBytes[row] = beforeBytes;
  collections.col.usedAfterBytes[row] = liveBytes;
  collections.col.capacityBytes[row] = cycle.goalMib * MIB;
  collections.col.resolutionBytes[row] = MIB;
  collections.col.concurrentMs[row] = markMs;
  const release = releases.addRow();
  releases.col.startMs[release] = startMs;
  releases.col.endMs[release] = endMs;
  releases.col.usedBeforeBytes[release] = beforeBytes;
  releases.col.usedAfterBytes[release] = liveBytes;
  releases.col.resolutionBytes[release] = MIB;
  releases.col.collectionRow[release] = row;
  releases.col.heapId[release] = log.heapId;
  // What was allocated meanwhile stands on top of it until the cycle ends.
  log.addUsed(endMs - endMarkMs, endBytes);
}
