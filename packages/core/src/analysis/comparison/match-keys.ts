import { fileName, frameText } from '../../model/call-path.ts';
import { type Charge, isFrameCharge, keyText } from '../../model/charge.ts';
import { NONE } from '../../base/ids.ts';
import type { Recording } from '../../model/recording.ts';
import type { NameRules } from './name-rules.ts';

/** How a key of one side was found on the other. */
export type MatchedBy = 'name' | 'rule' | 'line' | 'folder';

/** A key of both sides, or of one; NONE is a key too, so what is missing is null. */
export interface KeyPair {
  readonly a: number | null;
  readonly b: number | null;
  /** Null for a key of one side. */
  readonly by: MatchedBy | null;
}

interface Words {
  readonly key: number;
  /** By which it is the same at once. */
  readonly exact: string;
  /** Without what a build changes. */
  readonly plain: string;
  /** Function and file, and function and the file's own name: null for what is no frame. */
  readonly inFile: string | null;
  readonly inName: string | null;
  readonly line: number;
}

/**
 * Pairs the keys of two recordings: those of the same words, then those that differ by what a build changes, then
 * frames of the same function and file, the nearest line first, then of the same function in a file of that name in
 * another folder. What is left is of one side. Linear but for sorts within one function.
 */
export function matchKeys(
  [a, keysA]: readonly [Recording, readonly number[]],
  [b, keysB]: readonly [Recording, readonly number[]],
  charge: Charge,
  rules: NameRules,
): KeyPair[] {
  const [left, right] = [wordsOf(a, keysA, charge, rules), wordsOf(b, keysB, charge, rules)];
  const pairs: KeyPair[] = [];
  const [freeA, freeB] = [new Set(left), new Set(right)];
  const take = (one: Words, other: Words, by: MatchedBy): void => {
    if (!freeA.delete(one)) return;
    freeB.delete(other);
    pairs.push({ a: one.key, b: other.key, by });
  };
  const steps: readonly (readonly [MatchedBy, (words: Words) => string | null])[] = [
    ['name', (words) => words.exact],
    ['rule', (words) => words.plain],
    ['line', (words) => words.inFile],
    ['folder', (words) => words.inName],
  ];
  for (const [by, of] of steps) {
    const byText = grouped(freeB, of);
    for (const [text, ones] of grouped(freeA, of)) {
      const others = byText.get(text);
      if (others !== undefined) for (const [one, other] of nearest(ones, others)) take(one, other, by);
    }
  }
  for (const { key } of freeA) pairs.push({ a: key, b: null, by: null });
  for (const { key } of freeB) pairs.push({ a: null, b: key, by: null });
  return pairs;
}

function wordsOf(recording: Recording, keys: readonly number[], charge: Charge, rules: NameRules): Words[] {
  const isFrame = isFrameCharge(charge);
  return keys.map((key) => {
    const exact = keyText(recording, charge, key);
    if (!isFrame || key === NONE) return { key, exact, plain: rules.plain(exact), inFile: null, inName: null, line: 0 };
    const { functionName, file, line } = frameText(recording, key);
    const name = rules.plain(functionName);
    const path = rules.plain(file);
    return {
      key,
      exact,
      plain: rules.plain(exact),
      inFile: `${name}\n${path}`,
      inName: `${name}\n${fileName(path)}`,
      line,
    };
  });
}

function grouped(all: Iterable<Words>, of: (words: Words) => string | null): Map<string, Words[]> {
  const groups = new Map<string, Words[]>();
  for (const words of all) {
    const text = of(words);
    if (text === null) continue;
    const group = groups.get(text);
    if (group === undefined) groups.set(text, [words]);
    else group.push(words);
  }
  return groups;
}

// Pairs by how far apart their lines are; of many of one name both go by their order.
const MOST_TRIED = 200;

function nearest(ones: readonly Words[], others: readonly Words[]): (readonly [Words, Words])[] {
  if (ones.length === 1 && others.length === 1) return [[ones[0]!, others[0]!]];
  const byLine = (all: readonly Words[]): Words[] => [...all].sort((x, y) => x.line - y.line);
  if (ones.length * others.length > MOST_TRIED ** 2) {
    const sorted = byLine(others);
    return byLine(ones)
      .slice(0, sorted.length)
      .map((one, at) => [one, sorted[at]!] as const);
  }
  return ones
    .flatMap((one) => others.map((other) => [one, other] as const))
    .sort(
      ([a, b], [c, d]) => Math.abs(a.line - b.line) - Math.abs(c.line - d.line) || a.line + b.line - c.line - d.line,
    )
    .filter(unused());
}

function unused(): (pair: readonly [Words, Words]) => boolean {
  const seen = new Set<Words>();
  return ([one, other]) => {
    if (seen.has(one) || seen.has(other)) return false;
    seen.add(one).add(other);
    return true;
  };
}
