import { type HeapId, NONE } from '../../base/ids.ts';
import type { Recording } from '../../model/recording.ts';
import { Scope } from '../../model/tables.ts';
import { JVM } from '../../runtimes/jvm.ts';

/**
 * Adds a pause for every safepoint of the collector: a log of safepoints alone, or one that names no pauses, still
 * tells how long the collector stopped the program.
 */
export function pausesFromSafepoints(recording: Recording, heapId: HeapId): void {
  const { safepoints, pauses } = recording.tables;
  for (let at = 0; at < safepoints.length; at++) {
    const operation = recording.strings.text(safepoints.col.operationId[at]!);
    if (JVM.collectorOperations?.test(operation) !== true) continue;
    const row = pauses.addRow();
    pauses.col.startMs[row] = safepoints.col.startMs[at]!;
    pauses.col.durationMs[row] = safepoints.col.totalMs[at]!;
    pauses.col.collectionRow[row] = NONE;
    pauses.col.labelId[row] = recording.intern(`Safepoint ${operation}`);
    pauses.col.causeId[row] = recording.intern('');
    pauses.col.line[row] = safepoints.col.line[at]!;
    pauses.col.heapId[row] = heapId;
    pauses.col.scope[row] = /Full|Old|System_GC/i.test(operation) ? Scope.whole : Scope.young;
  }
}
