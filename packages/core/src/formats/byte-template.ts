import { ascii, ByteNumbers } from './byte-text.ts';

const DOT = 46;
const SLASH = 47;
const PLUS = 43;
const ZERO = 48;
const NINE = 57;

/** Among the letters of a template, which are ASCII, what stands for a stretch of others. */
const WHOLE = 128;
const DECIMAL = 129;
const FIGURES = 130;

/**
 * A line of fixed letters with numbers between, read from its bytes: `gc %d @%fs %d%: `. `%d` is a whole number, `%f`
 * one with or without a fraction, `%*` a stretch of digits, dots, pluses and slashes that nobody wants.
 */
export class ByteTemplate {
  /** The numbers of the line that fitted last, in order, of `%d` and `%f`. */
  readonly values: Float64Array;
  /** The offset after what fitted. */
  end = 0;
  private readonly letters: Uint8Array;
  private readonly numbers = new ByteNumbers();

  constructor(template: string) {
    const slots: ReadonlyMap<string, number> = new Map([
      ['%d', WHOLE],
      ['%f', DECIMAL],
      ['%*', FIGURES],
    ]);
    const parts = template
      .split(/(%[df*])/)
      .map((part) => [slots.get(part) ?? ascii(part)].flatMap((each) => (typeof each === 'number' ? each : [...each])));
    this.letters = Uint8Array.from(parts.flat());
    this.values = new Float64Array(template.split(/%[df]/).length - 1);
  }

  /** True when the template stands at `from`, with numbers of at most fifteen digits. */
  fits(bytes: Uint8Array, from: number): boolean {
    const { letters, numbers, values } = this;
    let at = from;
    let value = 0;
    for (let place = 0; place < letters.length; place++) {
      const letter = letters[place]!;
      if (letter < WHOLE) {
        if (bytes[at++] !== letter) return false;
      } else if (letter === FIGURES) {
        const start = at;
        while (isFigure(bytes[at]!)) at++;
        if (at === start) return false;
      } else {
        const number = numbers.read(bytes, at);
        if (Number.isNaN(number)) return false;
        if (letter === WHOLE) for (; at < numbers.end; at++) if (bytes[at] === DOT) return false;
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
