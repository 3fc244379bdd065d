import {
  chargeText,
  fileName,
  frameText,
  isFrameCharge,
  isOwnFile,
  NONE,
  placeName,
  type Charge,
  type Recording,
} from '@brisk-heron/core';

/** What a charge key is called. */
export interface KeyWords {
  /** The function of a frame, else the key's whole name. */
  readonly name: string;
  /** `alerts.js:88` for a frame, '' when unknown and for other keys. */
  readonly place: string;
  /** The place without what the name says already: `:88` of `Weir.open Weir.java:88`. */
  readonly shortPlace: string;
  /** False for frames that are not the engineer's own. */
  readonly isOwn: boolean;
}

export function keyWords(recording: Recording, charge: Charge, key: number): KeyWords {
  if (!isFrameCharge(charge) || key === NONE)
    return { name: chargeText(recording, charge, key), place: '', shortPlace: '', isOwn: key !== NONE };
  const frame = frameText(recording, key);
  const line = frame.line > 0 && charge !== 'function' ? `:${frame.line}` : '';
  const place = frame.file === '' ? '' : `${placeName(frame.file)}${line}`;
  const told = line !== '' && frame.functionName.startsWith(`${fileName(frame.file).replace(/\.\w+$/, '')}.`);
  return {
    name: frame.functionName,
    place,
    shortPlace: told ? line : place,
    isOwn: isOwnFile(frame.file, recording.ownRules),
  };
}

/** A type's name; null for none. */
export function typeWord(recording: Recording, typeId: number): string | null {
  return typeId === NONE ? null : recording.strings.text(typeId);
}

/**
 * Charges under which the recording tells anything: types, threads, heaps and spaces only where there are several or
 * any.
 */
export function chargesOf(recording: Recording): Charge[] {
  const { length, col } = recording.tables.origins;
  let [types, threads] = [false, false];
  for (let origin = 0; origin < length; origin++) {
    types ||= col.typeId[origin] !== NONE && !recording.outsideTypes.has(col.typeId[origin]!);
    threads ||= col.threadId[origin] !== NONE;
  }
  const more: [Charge, boolean][] = [
    ['type', types],
    ['thread', threads],
    ['heap', recording.heaps.length > 1],
    ['space', recording.outsideTypes.size > 0],
  ];
  return [
    'ownFrame',
    'site',
    'function',
    'file',
    'package',
    ...more.filter(([, has]) => has).map(([charge]) => charge),
  ];
}
