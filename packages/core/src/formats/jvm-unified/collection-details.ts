import type { Recording } from '../../model/recording.ts';
import type { CpuTimes } from './detail-message.ts';

/** What is told of a collection beside its pause, of any JVM. */
export interface CollectionDetails {
  readonly spaces: readonly {
    readonly name: string;
    readonly beforeBytes: number;
    readonly afterBytes: number;
    readonly capacityBytes?: number;
  }[];
  readonly ages: readonly { readonly age: number; readonly bytes: number }[];
  readonly cpu: CpuTimes | null;
}

/** Adds the rows of a collection's spaces and ages, and its processor times. */
export function fillDetails(recording: Recording, collectionRow: number, details: CollectionDetails): void {
  const { spaces, ages, collections } = recording.tables;
  for (const space of details.spaces) {
    const row = spaces.addRow();
    spaces.col.collectionRow[row] = collectionRow;
    spaces.col.nameId[row] = recording.intern(space.name);
    spaces.col.beforeBytes[row] = space.beforeBytes;
    spaces.col.afterBytes[row] = space.afterBytes;
    spaces.col.capacityBytes[row] = space.capacityBytes ?? NaN;
  }
  for (const each of details.ages) {
    const row = ages.addRow();
    ages.col.collectionRow[row] = collectionRow;
    ages.col.age[row] = Math.min(255, each.age);
    ages.col.bytes[row] = each.bytes;
  }
  if (details.cpu === null) return;
  collections.col.userMs[collectionRow] = (collections.col.userMs[collectionRow]! || 0) + details.cpu.userMs;
  collections.col.sysMs[collectionRow] = (collections.col.sysMs[collectionRow]! || 0) + details.cpu.sysMs;
  collections.col.realMs[collectionRow] = (collections.col.realMs[collectionRow]! || 0) + details.cpu.realMs;
}
