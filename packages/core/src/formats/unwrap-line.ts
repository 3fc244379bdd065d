/** Names under which containers, journals and log shippers keep the line that a program printed. */
const TEXT_MEMBERS = ['log', 'message', 'msg', 'MESSAGE', 'text', 'line'];

/**
 * The line that a program printed, out of the JSON object that a container runtime or a log shipper made of it; any other
 * line comes back as it is.
 */
export function unwrapLine(line: string): string {
  // A line of the open stream is nobody's wrapper, though it may carry text of a log.
  if (line.charCodeAt(0) !== 123 || !line.endsWith('}') || line.startsWith('{"k":')) return line;
  let value: unknown;
  try {
    value = JSON.parse(line);
  } catch {
    return line;
  }
  if (typeof value !== 'object' || value === null) return line;
  for (const name of TEXT_MEMBERS) {
    const text = (value as Record<string, unknown>)[name];
    if (typeof text === 'string') return text.replace(/\r?\n$/, '');
  }
  return line;
}
