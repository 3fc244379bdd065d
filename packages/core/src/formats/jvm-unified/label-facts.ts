import type { Recording } from '../../model/recording.ts';
import { CollectionFlag, PauseFlag, Scope, type ScopeCode } from '../../model/tables.ts';
import { withoutGeneration } from './cycle-message.ts';
import { causeOf, saysEvacuationFailed } from './pause-message.ts';

/** Causes of the collections that a recorder forces: through JVM TI, and for an inventory. */
const FORCED = ['JvmtiEnv ForceGarbageCollection', 'Heap Dump Initiated GC'];
/** Pauses of cycles that begin and end in lines of their own. */
const CONCURRENT_STEPS =
  /^Pause (?:Mark (?:Start|End)|Relocate Start|(?:Init|Final) (?:Mark|Update Refs|Roots|Verify)|Final Roots)/;
const CYCLE_STEPS = /^Pause (?:Remark|Cleanup|Initial Mark)/;
const DEGENERATED = 'Pause Degenerated GC';

/** What a pause's label says of it. */
export interface LabelFacts {
  readonly labelId: number;
  readonly causeId: number;
  readonly scope: ScopeCode;
  /** A step of a cycle that begins and ends in lines of its own; a step of G1's marking cycle; or a collection. */
  readonly part: 'concurrentStep' | 'cycleStep' | 'collection';
  /** `CollectionFlag`s of a collection with this label. */
  readonly collectionFlags: number;
  readonly pauseFlags: number;
}

/** Facts of labels, each worked out once: a log has few labels and many pauses. */
export class LabelBook {
  private readonly recording: Recording;
  private readonly recorded: boolean;
  private readonly known = new Map<string, LabelFacts>();

  /** `recorded` says that the log is part of a recording, whose recorder may force collections. */
  constructor(recording: Recording, recorded: boolean) {
    this.recording = recording;
    this.recorded = recorded;
  }

  factsOf(label: string): LabelFacts {
    const known = this.known.get(label);
    if (known !== undefined) return known;
    const facts = this.workOut(label);
    this.known.set(label, facts);
    return facts;
  }

  /** `CollectionFlag`s of a collection that the program or a recorder asked for; 0 for any other. */
  askedFor(cause: string): number {
    if (cause === 'System.gc()') return CollectionFlag.explicit;
    return this.recorded && FORCED.includes(cause) ? CollectionFlag.own : 0;
  }

  private workOut(label: string): LabelFacts {
    const step = withoutGeneration(label);
    const cause = causeOf(label);
    const own = this.recorded && FORCED.some((cause) => label.includes(cause));
    return {
      labelId: this.recording.intern(label),
      causeId: this.recording.intern(cause),
      scope: scopeOf(label),
      part: CONCURRENT_STEPS.test(step) ? 'concurrentStep' : CYCLE_STEPS.test(step) ? 'cycleStep' : 'collection',
      collectionFlags:
        this.askedFor(cause) |
        (label.startsWith(DEGENERATED) ? CollectionFlag.degenerated : 0) |
        (saysEvacuationFailed(label) ? CollectionFlag.evacuationFailed : 0),
      pauseFlags: own ? PauseFlag.own : 0,
    };
  }
}

/** Scope of a JVM's pause by its own label. */
export function scopeOf(label: string): ScopeCode {
  if (label.startsWith('Pause Young')) return label.includes('(Mixed)') ? Scope.mixed : Scope.young;
  return Scope.whole;
}
