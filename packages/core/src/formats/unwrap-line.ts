/** Names under which containers, journals and log shippers keep the line that a program printed. */
const TEXT_MEMBERS = ['log', 'message', 'msg', 'MESSAGE', 'text', 'line'];

/**
 * `2026-11-23T05:55:13.577123456Z stdout F `: a container runtime's own files. `P` instead of `F` marks a line it cut.
 */
const CONTAINER = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d+)?(?:Z|[+-]\d\d:\d\d) (?:stdout|stderr) [FP] /;
/**
 * `Nov 23 05:55:13 estuary tidewatch[812]: ` and `2026-11-23T05:55:13+0000 estuary tidewatch[812]: `: a system's
 * journal.
 */
const JOURNAL =
  /^(?:<\d+>)?(?:[A-Z][a-z]{2} [ \d]\d \d\d:\d\d:\d\d(?:\.\d+)?|\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d+)?(?:Z|[+-]\d\d:?\d\d)) [\w.-]+ [\w./@:-]+(?:\[\d+\])?: /;
/** `tidewatch-1  | `: several containers' output side by side. */
const SERVICE = /^[\w.-]+ +\| /;

/**
 * The line that a program printed, out of what a container runtime, a journal or a log shipper made of it: a JSON
 * object, or the line behind a prefix. Any other line comes back as it is.
 */
export function unwrapLine(line: string): string {
  switch (kindOfStart(line.charCodeAt(0))) {
    case 'brace':
      return unwrapObject(line);
    case 'bracket':
      return line;
    case 'word':
      return withoutPrefix(line);
  }
}

// Most lines begin with a bracket, and are nobody's.
function kindOfStart(code: number): 'brace' | 'bracket' | 'word' {
  if (code === 123) return 'brace';
  return code === 91 || code === 32 || Number.isNaN(code) ? 'bracket' : 'word';
}

function withoutPrefix(line: string): string {
  const prefix = CONTAINER.exec(line) ?? JOURNAL.exec(line) ?? SERVICE.exec(line);
  return prefix === null ? line : line.slice(prefix[0].length);
}

function unwrapObject(line: string): string {
  // A line of the open stream is nobody's wrapper, though it may carry text of a log.
  if (!line.endsWith('}') || line.startsWith('{"k":')) return line;
  let value: unknown;
  try {
    value = JSON.parse(line);
  } catch {
    return line;
  }
  if (typeof value !== 'object' || value === null) return line;
  for (const name of TEXT_MEMBERS) {
    const text: unknown = Reflect.get(value, name);
    if (typeof text === 'string') return text.replace(/\r?\n$/, '');
  }
  return line;
}
