import { formatBytes } from '../../../base/units.ts';
import { DETACHED, SCOPE } from '../../../model/heap-graph.ts';
import { findType, heldTogether, objectsOf, type Reason, type ReasonSubject, typesWhere } from './reason.ts';

/** A kind of object that keeps things by being there. */
interface KeepingType {
  readonly code: string;
  readonly source: 'jvm' | 'v8';
  readonly isIt: (type: string) => boolean;
  readonly least: number;
  readonly words: (count: string, held: string) => string;
  readonly rule: string;
  readonly advice: string;
}

const KEEPING: readonly KeepingType[] = [
  {
    code: 'timers',
    source: 'v8',
    isIt: (type) => type === 'Timeout' || type === 'Immediate',
    least: 50,
    words: (count, held) => `${count} timers that have not run hold ${held}.`,
    rule: '50 or more timers wait, with what their functions keep',
    advice: 'Clear a timer when what it is for is over; use one for many instead of one each.',
  },
  {
    code: 'timers',
    source: 'jvm',
    isIt: (type) => /ScheduledThreadPoolExecutor\$ScheduledFutureTask$|^java\.util\.TimerTask$/.test(type),
    least: 50,
    words: (count, held) => `${count} tasks that are scheduled hold ${held}.`,
    rule: '50 or more scheduled tasks wait, with what they keep',
    advice: 'Cancel a task when what it is for is over, and have cancelled ones removed (setRemoveOnCancelPolicy).',
  },
  {
    code: 'thread-locals',
    source: 'jvm',
    isIt: (type) => type === 'java.lang.ThreadLocal$ThreadLocalMap$Entry',
    least: 1,
    words: (count, held) =>
      count === '1' ? `1 value of a thread-local holds ${held}.` : `${count} values of thread-locals hold ${held}.`,
    rule: 'what threads keep in their thread-locals',
    advice: 'Call remove() when a task of a pooled thread ends: the thread lives on, and its values with it.',
  },
  {
    code: 'scopes',
    source: 'v8',
    isIt: (type) => type === SCOPE,
    least: 100,
    words: (count, held) => `${count} scopes that functions keep hold ${held}.`,
    rule: '100 or more scopes are kept; a function keeps every variable of its scope that any function in it uses',
    advice:
      'Open their ways: where a long-lived function needs one value, hand it that one as an argument of a function of its own.',
  },
  {
    code: 'detached-parts',
    source: 'v8',
    isIt: (type) => type.endsWith(DETACHED),
    least: 1,
    words: (count, held) =>
      count === '1'
        ? `1 part of a page that was taken out of it holds ${held}.`
        : `${count} parts of pages that were taken out of them hold ${held}.`,
    rule: 'parts of pages that hang in none, by the flag of the runtime',
    advice:
      'Open their ways: a variable, a list or a listener of the program still refers to one, and each keeps the whole tree it is of.',
  },
];

/** Timers, thread-locals, scopes and detached parts of pages that hold much. */
export function keptTypeReasons({ holding, source, leastBytes }: ReasonSubject): readonly Reason[] {
  return KEEPING.filter((each) => each.source === source).flatMap(({ code, isIt, least, words, rule, advice }) => {
    const types = typesWhere(holding.graph, isIt);
    const objects = objectsOf(holding, types);
    if (objects.length < least) return [];
    const heldBytes = heldTogether(holding, objects);
    if (heldBytes < leastBytes) return [];
    const sentence = words(objects.length.toLocaleString('en'), formatBytes(heldBytes));
    const key = holding.graph.types[holding.graph.typeId[objects[0]!]!]!;
    return [{ code, sentence, rule, advice, heldBytes, objects: objects.length, find: findType(key), key }];
  });
}
