import { snippet } from '../../base/issues.ts';
import { MIB } from '../../base/units.ts';
import { CollectionFlag, Scope } from '../../model/tables.ts';
import { GO } from '../../runtimes/go.ts';
import { LineLog } from '../line-log.ts';
import type { Format } from '../log-parser.ts';

/** Go's `GODEBUG=gctrace=1`. */
export const goTrace: Format = {
  name: 'go-trace',
  words: 'Go gctrace=1 lines',
  runtime: GO,
  detect: (headLines) => headLines.filter((line) => LINE.test(line)).length / Math.max(1, headLines.length),
  createParser: () => {
    const log = new LineLog('go-trace', { runtime: 'Go', traits: GO }, (line, number, offset) =>
      take(log, line, number, offset),
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

/**
 * One cycle a line: the heap at its start, at its end, and what of it lived. Its pause is the sum of its two (end of
 * sweeping, end of marking), which is how the runtime itself counts (`MemStats.PauseNs`), placed at its start.
 */
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
  const startMs = Number(found[2]) * 1000;
  const [sweepMs, markMs, endMarkMs] = [Number(found[3]), Number(found[4]), Number(found[5])];
  const endMs = startMs + sweepMs + markMs + endMarkMs;
  if (log.refuses({ startMs, endMs, pauseMs: sweepMs + endMarkMs }, number, offset)) return;
  const forced = found[10] !== undefined;
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
  const [beforeBytes, endBytes, liveBytes] = [Number(found[6]) * MIB, Number(found[7]) * MIB, Number(found[8]) * MIB];
  collections.col.usedBeforeBytes[row] = beforeBytes;
  collections.col.usedAfterBytes[row] = liveBytes;
  collections.col.capacityBytes[row] = Number(found[9]) * MIB;
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
