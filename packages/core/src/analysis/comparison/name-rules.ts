/**
 * What a build changes in names, so that a key is the same one on both sides. A rule is a text in which `{hash}` stands
 * for letters and digits, eight or more with two digits among them, `{version}` for numbers with dots between them, and `{n}`
 * for a number: what they stand for does not count.
 */
export const NAME_RULES: readonly string[] = [
  '.{hash}.js',
  '-{hash}.js',
  '.{hash}.mjs',
  '-{hash}.mjs',
  '@{version}',
  '-{version}.jar',
  '-{version}/',
  '/{version}/',
  '$$Lambda${n}',
  '$Proxy{n}',
  '$lambda${n}',
];

const MOST_RULES = 100;
const TOKENS: readonly (readonly [token: string, pattern: string])[] = [
  ['{hash}', '(?=(?:[A-Za-z_]*\\d){2})[0-9A-Za-z_]{8,64}'],
  ['{version}', '\\d{1,9}(?:\\.[0-9A-Za-z]{1,20}){1,6}(?:-[A-Za-z]{1,20}\\.?\\d{0,9})?'],
  ['{n}', '\\d{1,20}'],
];

/** Rewrites names by rules, so that those a build changes are equal. */
export class NameRules {
  private readonly rules: readonly (readonly [RegExp, string])[];
  private readonly known = new Map<string, string>();

  /** @throws when a rule has nothing that it stands for, or there are too many. */
  constructor(rules: readonly string[] = NAME_RULES) {
    if (rules.length > MOST_RULES) throw new Error(`expected at most ${MOST_RULES} rules, found ${rules.length}`);
    this.rules = rules.map(compiled);
  }

  /** The name without what the rules say does not count. */
  plain(name: string): string {
    let plain = this.known.get(name);
    if (plain === undefined) {
      plain = this.rules.reduce((text, [pattern, by]) => text.replace(pattern, by), name);
      this.known.set(name, plain);
    }
    return plain;
  }
}

function compiled(rule: string): readonly [RegExp, string] {
  let pattern = '';
  let by = '';
  let found = 0;
  for (let at = 0; at < rule.length;) {
    const token = TOKENS.find(([text]) => rule.startsWith(text, at));
    if (token === undefined) {
      pattern += rule[at]!.replace(/[.*+?^${}()|[\]\\/]/, '\\$&');
      by += rule[at] === '$' ? '$$' : rule[at];
      at++;
    } else {
      pattern += token[1];
      by += '…';
      at += token[0].length;
      found++;
    }
  }
  if (found === 0) throw new Error(`expected a rule with {hash}, {version} or {n} in it, found "${rule.slice(0, 80)}"`);
  return [new RegExp(pattern, 'g'), by];
}
