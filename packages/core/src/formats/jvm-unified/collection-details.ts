import type { Recording } from '../../model/recording.ts';
import type { AgeRow, CpuTimes } from './detail-message.ts';

/** Size of one space around a collection, in bytes. */
export interface SpaceSize {
  readonly name: string;
  readonly beforeBytes: number;
  readonly afterBytes: number;
  /** How large the space was after the collection; absent where the line does not say. */
  readonly capacityBytes?: number;
}

/** What is told of a collection beside its pause, of any JVM. */
export interface CollectionDetails {
  readonly spaces: readonly SpaceSize[];
  readonly ages: readonly AgeRow[];
  readonly cpu: CpuTimes | null;
}

/** Adds the rows of a collection's spaces and ages, and its processor times. */
export function fillDetails(recording: Recording, collectionRow: number, details: CollectionDetails): void {
  for (const space of details.spaces) addSpaceRow(recording, collectionRow, space);
  for (const each of details.ages) addAgeRow(recording, collectionRow, each);
  if (details.cpu !== null) addProcessorTimes(recording, collectionRow, details.cpu);
}

/** Adds the row of a space of a collection. */
export function addSpaceRow(recording: Recording, collectionRow: number, space: SpaceSize): void {
  const { spaces } = recording.tables;
  const row = spaces.addRow();
  const { col } = spaces;
  col.collectionRow[row] = collectionRow;
  col.nameId[row] = recording.intern(space.name);
  col.beforeBytes[row] = space.beforeBytes;
  col.afterBytes[row] = space.afterBytes;
  col.capacityBytes[row] = space.capacityBytes ?? NaN;
}

/** Adds a row of the age table of a collection. */
export function addAgeRow(recording: Recording, collectionRow: number, { age, bytes }: AgeRow): void {
  const { ages } = recording.tables;
  const row = ages.addRow();
  const { col } = ages;
  col.collectionRow[row] = collectionRow;
  col.age[row] = Math.min(255, age);
  col.bytes[row] = bytes;
}

/** Adds processor times to those that a collection has. */
export function addProcessorTimes(recording: Recording, collectionRow: number, times: CpuTimes): void {
  const { col } = recording.tables.collections;
  col.userMs[collectionRow] = (col.userMs[collectionRow]! || 0) + times.userMs;
  col.sysMs[collectionRow] = (col.sysMs[collectionRow]! || 0) + times.sysMs;
  col.realMs[collectionRow] = (col.realMs[collectionRow]! || 0) + times.realMs;
}
