import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type { LineSink } from './line-sink.ts';
import type { CarriedText } from './source-places.ts';

const LINES_BEFORE = 2;
const LINES_AFTER = 10;
const MOST_CHARS = 160;
const MOST_FILES = 200;

/**
 * Tells the lines around a function of the program's own files, once each. Files that cannot be read are passed over.
 */
export class SourceExcerpts {
  private readonly writer: LineSink;
  private readonly files = new Map<string, readonly string[]>();

  private readonly carried: CarriedText;

  constructor(writer: LineSink, carried: CarriedText = () => undefined) {
    this.writer = writer;
    this.carried = carried;
  }

  tell(url: string, line: number): void {
    if (
      line < 1 ||
      url.includes('/node_modules/') ||
      !(url.startsWith('file:') || url.startsWith('/') || this.carried(url) !== undefined)
    )
      return;
    const lines = this.linesOf(url);
    if (lines.length < line) return;
    const first = Math.max(1, line - LINES_BEFORE);
    const text = lines.slice(first - 1, line + LINES_AFTER).map((each) => each.slice(0, MOST_CHARS));
    this.writer.add({ k: 'src', file: url, line, first, text });
  }

  private linesOf(url: string): readonly string[] {
    const known = this.files.get(url);
    if (known !== undefined) return known;
    let lines: readonly string[] = [];
    try {
      if (this.files.size < MOST_FILES)
        lines = (this.carried(url) ?? readFileSync(url.startsWith('file:') ? fileURLToPath(url) : url, 'utf8')).split(
          '\n',
        );
    } catch {
      lines = [];
    }
    this.files.set(url, lines);
    return lines;
  }
}
