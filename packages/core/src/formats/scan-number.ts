const ZERO = 48;
const NINE = 57;
const DOT = 46;

/**
 * Reads decimal digits with an optional fraction at `from`. Answers NaN when there is no digit, so that a cut-off
 * value is never taken for a number. `.end` of the scanner is the offset after it.
 */
export class NumberScanner {
  end = 0;

  read(text: string, from: number): number {
    let at = from;
    let code = text.charCodeAt(at);
    let value = 0;
    while (code >= ZERO && code <= NINE) {
      value = value * 10 + (code - ZERO);
      code = text.charCodeAt(++at);
    }
    if (at === from) {
      this.end = from;
      return NaN;
    }
    if (code !== DOT) {
      this.end = at;
      return value;
    }
    const dot = at;
    code = text.charCodeAt(++at);
    while (code >= ZERO && code <= NINE) code = text.charCodeAt(++at);
    this.end = at;
    // A decimal fraction is left to the engine's own correctly rounded conversion.
    return at === dot + 1 ? NaN : Number(text.slice(from, at));
  }
}

/** Bytes of a size unit as runtimes print it (1024-based), NaN for any other character. */
export function unitBytes(code: number): number {
  switch (code) {
    case 66:
      return 1; // B
    case 75:
      return 1024; // K
    case 77:
      return 1024 * 1024; // M
    case 71:
      return 1024 * 1024 * 1024; // G
    default:
      return NaN;
  }
}
