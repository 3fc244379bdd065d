import { NONE } from '../base/ids.ts';
import { fileName, frameText, placeName } from '../model/call-path.ts';
import { type Charge, chargeGroups, chargeText, isFrameCharge, keyText } from '../model/charge.ts';
import { isOwnFile } from '../model/own-frame.ts';
import type { Recording } from '../model/recording.ts';
import { piece } from '../study/piece.ts';
import type { Subject } from '../study/subject.ts';
import type { Column } from './measure.ts';

/** What a charge key is called. */
export interface KeyWords {
  /** The key's own words (model/charge.ts), by which it is asked for. */
  readonly key: string;
  /** The function of a frame, else the key's whole name. */
  readonly name: string;
  /** `alerts.js:88` for a frame, '' when unknown and for other keys. */
  readonly place: string;
  /** The place without what the name says already: `:88` of `Weir.open Weir.java:88`. */
  readonly shortPlace: string;
  /** False for frames that are not the engineer's own. */
  readonly isOwn: boolean;
}

/** What a key is called, in parts. */
export function keyWords(recording: Recording, charge: Charge, key: number): KeyWords {
  if (!isFrameCharge(charge) || key === NONE)
    return {
      key: keyText(recording, charge, key),
      name: chargeText(recording, charge, key),
      place: '',
      shortPlace: '',
      isOwn: key !== NONE,
    };
  const frame = frameText(recording, key);
  const line = frame.line > 0 && charge !== 'function' ? `:${frame.line}` : '';
  const place = frame.file === '' ? '' : `${placeName(frame.file)}${line}`;
  const told = line !== '' && frame.functionName.startsWith(`${fileName(frame.file).replace(/\.\w+$/, '')}.`);
  return {
    key: keyText(recording, charge, key),
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

const KEYS_BY_TEXT = piece('keys by text', (subject: Subject, charge: Charge): ReadonlyMap<string, number> => {
  const { keys } = chargeGroups(subject.recording, charge);
  return new Map(Array.from(keys, (key) => [keyText(subject.recording, charge, key), key]));
});

/** The key that has these words; undefined where the recording has none. */
export function keyOfText(subject: Subject, charge: Charge, text: string): number | undefined {
  return subject.get(KEYS_BY_TEXT, charge).get(text);
}

/** Columns that say which key a row is of. */
export const KEY_COLUMNS: readonly Column<KeyWords>[] = [
  { head: 'key', cell: (row) => row.name },
  { head: 'at', cell: (row) => row.place },
];
