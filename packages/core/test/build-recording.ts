import { JVM } from '../src/runtimes/jvm.ts';
import { NONE } from '../src/base/ids.ts';
import { Recording } from '../src/model/recording.ts';
import { CollectionFlag, PauseFlag, PhaseKind, Scope, type ScopeCode } from '../src/model/tables.ts';

export interface TestCollection {
  readonly startMs: number;
  readonly ms: number;
  readonly before: number;
  readonly after: number;
  readonly scope?: ScopeCode;
  readonly flags?: number;
  readonly heapId?: number;
  readonly label?: string;
}

/** A recording of one heap with the collections given, each with its pause. */
export function recordingOf(collections: readonly TestCollection[], durationMs = NaN): Recording {
  const recording = new Recording('recording');
  recording.addHeap('main', JVM);
  for (const each of collections) addCollection(recording, each);
  recording.reach(durationMs);
  return recording;
}

export function addCollection(recording: Recording, each: TestCollection): void {
  const { collections, pauses } = recording.tables;
  const row = collections.addRow();
  const label = recording.intern(each.label ?? 'Pause');
  collections.col.startMs[row] = each.startMs;
  collections.col.endMs[row] = each.startMs + each.ms;
  collections.col.usedBeforeBytes[row] = each.before;
  collections.col.usedAfterBytes[row] = each.after;
  collections.col.labelId[row] = label;
  collections.col.scope[row] = each.scope ?? Scope.whole;
  collections.col.flags[row] = each.flags ?? 0;
  collections.col.heapId[row] = each.heapId ?? 0;
  const pause = pauses.addRow();
  pauses.col.startMs[pause] = each.startMs;
  pauses.col.durationMs[pause] = each.ms;
  pauses.col.usedBeforeBytes[pause] = each.before;
  pauses.col.usedAfterBytes[pause] = each.after;
  pauses.col.resolutionBytes[pause] = 1;
  pauses.col.collectionRow[pause] = row;
  pauses.col.labelId[pause] = label;
  pauses.col.scope[pause] = each.scope ?? Scope.whole;
  pauses.col.heapId[pause] = each.heapId ?? 0;
  pauses.col.flags[pause] = (each.flags ?? 0) & CollectionFlag.own ? PauseFlag.own : 0;
  recording.reach(each.startMs + each.ms);
}

export interface TestObject {
  readonly bornMs: number;
  readonly diedMs?: number;
  readonly bytes: number;
  readonly site: string;
  readonly probability?: number;
  readonly type?: string;
  readonly thread?: string;
  readonly heapId?: number;
}

/** Adds an object whose path is one own frame named by the site; answers its row. */
export function addObject(recording: Recording, object: TestObject): number {
  const row = recording.tables.objects.addRow();
  const { col } = recording.tables.objects;
  col.bornMs[row] = object.bornMs;
  col.bornEarlyMs[row] = 0;
  col.bornLateMs[row] = 0;
  if (object.diedMs !== undefined) {
    col.endMs[row] = object.diedMs;
    col.diedSlackMs[row] = 0;
  }
  col.sizeBytes[row] = object.bytes;
  col.probability[row] = object.probability ?? 1;
  col.originId[row] = originOf(recording, object);
  recording.reach(object.diedMs ?? object.bornMs);
  return row;
}

function originOf(
  recording: Recording,
  { site, type, thread, heapId }: Pick<TestObject, 'site' | 'type' | 'thread' | 'heapId'>,
): number {
  const path = recording.internPath(NONE, recording.internFrame(site, `/srv/${site}.js`, 1, 1));
  const id = (text: string | undefined): number => (text === undefined ? NONE : recording.intern(text));
  return recording.internOrigin(path, id(type), id(thread), heapId ?? 0);
}

/** Adds bytes of a site over an interval whose objects were not seen. */
export function addFlow(
  recording: Recording,
  flow: Pick<TestObject, 'site' | 'type' | 'heapId' | 'bytes'> & {
    readonly fromMs: number;
    readonly toMs: number;
    readonly count?: number;
    readonly seBytes?: number;
  },
): void {
  const { flows } = recording.tables;
  const row = flows.addRow();
  flows.col.fromMs[row] = flow.fromMs;
  flows.col.toMs[row] = flow.toMs;
  flows.col.bytes[row] = flow.bytes;
  flows.col.seBytes[row] = flow.seBytes ?? 0;
  flows.col.count[row] = flow.count ?? NaN;
  flows.col.originId[row] = originOf(recording, flow);
  recording.reach(flow.toMs);
}

/** Says that single objects were followed from a time on. */
export function followObjects(recording: Recording, fromMs = 0): void {
  const { phases } = recording.tables;
  const row = phases.addRow();
  phases.col.fromMs[row] = fromMs;
  phases.col.kind[row] = PhaseKind.objects;
}
