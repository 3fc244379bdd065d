import type { Recording } from '../../model/recording.ts';
import { addAgeRow, addSpaceRow, type SpaceSize } from './collection-details.ts';
import type { AgeRow } from './detail-message.ts';

/** What was told of one collection; the places of both lists are used again. */
class Details {
  gcId = NaN;
  readonly spaces: { name: string; beforeBytes: number; afterBytes: number; capacityBytes: number }[] = [];
  spaceCount = 0;
  readonly ages: { age: number; bytes: number }[] = [];
  ageCount = 0;

  addSpace({ name, beforeBytes, afterBytes, capacityBytes = NaN }: SpaceSize): void {
    const place = (this.spaces[this.spaceCount++] ??= {
      name: '',
      beforeBytes: NaN,
      afterBytes: NaN,
      capacityBytes: NaN,
    });
    place.name = name;
    place.beforeBytes = beforeBytes;
    place.afterBytes = afterBytes;
    place.capacityBytes = capacityBytes;
  }

  addAge({ age, bytes }: AgeRow): void {
    const place = (this.ages[this.ageCount++] ??= { age: 0, bytes: NaN });
    place.age = age;
    place.bytes = bytes;
  }
}

/**
 * Sizes of spaces and rows of age tables, told in lines of their own before the pause of their collection. Ids
 * interleave, but most lines are of the collection that the one before was of.
 */
export class PendingDetails {
  private readonly byId = new Map<number, Details>();
  private last: Details | null = null;
  private spare: Details | null = null;

  addSpace(gcId: number, space: SpaceSize): void {
    this.of(gcId).addSpace(space);
  }

  addAge(gcId: number, row: AgeRow): void {
    this.of(gcId).addAge(row);
  }

  /** How much the spaces of these names grew, 0 where they shrank; NaN where none of them is told of. */
  growthOf(gcId: number, names: ReadonlySet<string>): number {
    const details = this.found(gcId);
    let grownBytes = NaN;
    for (let place = 0; place < (details?.spaceCount ?? 0); place++) {
      const space = details!.spaces[place]!;
      if (names.has(space.name)) grownBytes = Math.max(0, space.afterBytes - space.beforeBytes);
    }
    return grownBytes;
  }

  /** Adds the rows of what was told to a collection's row, and forgets it. */
  fill(gcId: number, recording: Recording, collectionRow: number): void {
    const details = this.found(gcId);
    if (details === null) return;
    for (let place = 0; place < details.spaceCount; place++)
      addSpaceRow(recording, collectionRow, details.spaces[place]!);
    for (let place = 0; place < details.ageCount; place++) addAgeRow(recording, collectionRow, details.ages[place]!);
    this.forget(gcId);
  }

  forget(gcId: number): void {
    const details = this.found(gcId);
    if (details === null) return;
    this.byId.delete(gcId);
    this.last = null;
    this.spare = details;
  }

  private found(gcId: number): Details | null {
    return this.last !== null && this.last.gcId === gcId ? this.last : (this.byId.get(gcId) ?? null);
  }

  private of(gcId: number): Details {
    const known = this.found(gcId);
    if (known !== null) {
      this.last = known;
      return known;
    }
    const details = this.spare ?? new Details();
    this.spare = null;
    details.gcId = gcId;
    details.spaceCount = details.ageCount = 0;
    this.byId.set(gcId, details);
    this.last = details;
    return details;
  }
}
