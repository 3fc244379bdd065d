import { NONE } from '../base/ids.ts';
import type { ChargeGroups, OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { Sum, SUMS } from './origin-sums.ts';
import type { SpanSums } from './span-sums.ts';

/**
 * Of each group the path and the type that keep most, else that allocate most; NONE where no origin has any. Worked out
 * for the groups that are asked for, of very many a few: linear in a group's origins, and once in all of them.
 */
export class GroupLeaders {
  private readonly recording: Recording;
  private readonly groups: ChargeGroups;
  private readonly sums: SpanSums;
  private readonly chosen: OriginChoice;
  private readonly paths = new Map<number, number>();
  private readonly types = new Map<number, number>();
  private origins: GroupOrigins | null = null;

  constructor(recording: Recording, groups: ChargeGroups, sums: SpanSums, chosen: OriginChoice) {
    this.recording = recording;
    this.groups = groups;
    this.sums = sums;
    this.chosen = chosen;
  }

  pathOf(group: number): number {
    return this.leader(group, this.paths, this.recording.tables.origins.col.pathId);
  }

  typeOf(group: number): number {
    return this.leader(group, this.types, this.recording.tables.origins.col.typeId);
  }

  private leader(group: number, known: Map<number, number>, ids: Uint32Array): number {
    let leader = known.get(group);
    if (leader === undefined) known.set(group, (leader = this.heaviest(group, ids)));
    return leader;
  }

  private heaviest(group: number, ids: Uint32Array): number {
    const { order, firstOf } = (this.origins ??= originsByGroup(this.groups));
    const sums = new Map<number, number>();
    let [leader, most] = [NONE as number, -1];
    for (let place = firstOf[group]!; place < firstOf[group + 1]!; place++) {
      const originId = order[place]!;
      const weight = this.weightOf(originId);
      if (weight === 0 && most >= 0) continue;
      const id = ids[originId]!;
      const sum = (sums.get(id) ?? 0) + weight;
      sums.set(id, sum);
      if (sum > most) [leader, most] = [id, sum];
    }
    return leader;
  }

  // What is kept goes before whatever is only allocated: the shift is above any sum of bytes.
  private weightOf(originId: number): number {
    if (this.chosen !== null && this.chosen[originId] !== 1) return 0;
    const { sums, flows } = this.sums;
    const at = originId * SUMS;
    return sums[at + Sum.kept]! * 2 ** 40 + sums[at + Sum.alloc]! + flows.bytes[originId]!;
  }
}

/** Origins of each group beside each other, as they stand, and where those of each begin. */
interface GroupOrigins {
  readonly order: Uint32Array;
  readonly firstOf: Uint32Array;
}

function originsByGroup({ groupOf, keys }: ChargeGroups): GroupOrigins {
  const firstOf = new Uint32Array(keys.length + 1);
  for (let originId = 0; originId < groupOf.length; originId++) firstOf[groupOf[originId]! + 1]!++;
  for (let group = 1; group <= keys.length; group++) firstOf[group]! += firstOf[group - 1]!;
  const next = firstOf.slice();
  const order = new Uint32Array(groupOf.length);
  for (let originId = 0; originId < groupOf.length; originId++) order[next[groupOf[originId]!]!++] = originId;
  return { order, firstOf };
}
