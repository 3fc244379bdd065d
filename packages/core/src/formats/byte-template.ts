import type { Letters } from '../base/line-batch.ts';
import { ascii, ByteNumbers, standsAt, type Word } from './byte-text.ts';

const BLANK = 32;
const DOT = 46;
const SLASH = 47;
const PLUS = 43;
const ZERO = 48;
const NINE = 57;

/** What a stretch of digits between letters is. */
const WHOLE = 0;
const DECIMAL = 1;
const FIGURES = 2;
const BLANKS = 3;

/**
 * A line of fixed letters with numbers between, read from its bytes: `gc %d @%fs %d%: `. `%d` is a whole number, `%f`
 * one with or without a fraction, `%*` a stretch of digits, dots, pluses and slashes that nobody wants, `%_` any number
 * of blanks.
 */
export class ByteTemplate {
  /** The numbers of the line that fitted last, in order, of `%d` and `%f`. */
  readonly values: Float64Array;
  /** The offset after what fitted. */
  end = 0;
  /** The letters before each number, and those after the last; what each number is. */
  private readonly words: Word[];
  private readonly slots: number[];
  private readonly numbers = new ByteNumbers();

  constructor(template: string) {
    const slots: ReadonlyMap<string, number> = new Map([
      ['%d', WHOLE],
      ['%f', DECIMAL],
      ['%*', FIGURES],
      ['%_', BLANKS],
    ]);
    const parts = template.split(/(%[df*_])/);
    this.words = parts.filter((_, at) => at % 2 === 0).map(ascii);
    this.slots = parts.filter((_, at) => at % 2 === 1).map((slot) => slots.get(slot)!);
    this.values = new Float64Array(this.slots.filter((slot) => slot === WHOLE || slot === DECIMAL).length);
  }

  /** True when the template stands at `from`, with numbers of at most fifteen digits. */
  fits({ bytes, view }: Letters, from: number): boolean {
    const { words, slots, numbers, values } = this;
    let at = from;
    let value = 0;
    for (let place = 0; place < words.length; place++) {
      const word = words[place]!;
      if (word.length > 0 && !standsAt(view, at, word)) return false;
      at += word.length;
      if (place === slots.length) break;
      const slot = slots[place]!;
      const start = at;
      if (slot === BLANKS) while (bytes[at] === BLANK) at++;
      else if (slot === FIGURES) {
        while (isFigure(bytes[at]!)) at++;
        if (at === start) return false;
      } else {
        const number = numbers.read(bytes, at);
        if (Number.isNaN(number)) return false;
        if (slot === WHOLE) for (; at < numbers.end; at++) if (bytes[at] === DOT) return false;
        values[value++] = number;
        at = numbers.end;
      }
    }
    this.end = at;
    return true;
  }
}

function isFigure(code: number): boolean {
  return (code >= ZERO && code <= NINE) || code === DOT || code === SLASH || code === PLUS;
}
