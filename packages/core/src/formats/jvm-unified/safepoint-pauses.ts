import { type HeapId, NONE } from '../../base/ids.ts';
import type { Recording } from '../../model/recording.ts';
import { Scope, type ScopeCode } from '../../model/tables.ts';
import { JVM } from '../../runtimes/jvm.ts';

/**
 * Adds a pause for every safepoint of the collector: a log of safepoints alone, or one that names no pauses, still
 * tells how long the collector stopped the program.
 */
export function pausesFromSafepoints(recording: Recording, heapId: HeapId): void {
  const { safepoints, pauses } = recording.tables;
  const causeId = recording.intern('');
  const known = new Map<number, { readonly labelId: number; readonly scope: ScopeCode } | null>();
  for (let at = 0; at < safepoints.length; at++) {
    const operationId = safepoints.col.operationId[at]!;
    let told = known.get(operationId);
    if (told === undefined) {
      const operation = recording.strings.text(operationId);
      const isCollector = JVM.collectorOperations?.test(operation) === true;
      const scope = /Full|Old|System_GC/i.test(operation) ? Scope.whole : Scope.young;
      told = isCollector ? { labelId: recording.intern(`Safepoint ${operation}`), scope } : null;
      known.set(operationId, told);
    }
    if (told === null) continue;
    const row = pauses.addRow();
    const { col } = pauses;
    col.startMs[row] = safepoints.col.startMs[at]!;
    col.durationMs[row] = safepoints.col.totalMs[at]!;
    col.collectionRow[row] = NONE;
    col.labelId[row] = told.labelId;
    col.causeId[row] = causeId;
    col.line[row] = safepoints.col.line[at]!;
    col.heapId[row] = heapId;
    col.scope[row] = told.scope;
  }
}
