/** One defect found in an input: what was expected, where, and what came. Data, never thrown. */
export interface InputIssue {
  readonly code: string;
  /** Line number, from 1. */
  readonly line: number;
  /** Offset of the line's first byte in the file. */
  readonly byteOffset: number;
  /** What was expected, what came (at most 80 characters of it) and what to do. */
  readonly message: string;
}

const KEPT = 50;
const SNIPPET = 80;

/** Counts every issue by code and keeps the first 50 whole, so that a hostile file costs bounded memory. */
export class IssueLog {
  readonly first: InputIssue[] = [];
  // eslint-disable-next-line no-restricted-syntax -- codes are our own
  readonly byCode: Record<string, number> = {};
  count = 0;

  add(issue: InputIssue): void {
    this.count++;
    this.byCode[issue.code] = (this.byCode[issue.code] ?? 0) + 1;
    if (this.first.length < KEPT) this.first.push(issue);
  }
}

/** At most 80 characters of the text, control characters replaced, quoted for a message. */
export function snippet(text: string): string {
  const head = text.length > SNIPPET ? `${text.slice(0, SNIPPET - 1)}…` : text;
  return `"${head.replace(/[\u0000-\u001f\u007f]/g, '·')}"`;
}
