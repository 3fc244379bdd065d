/**
 * An answer as plain JSON values: typed arrays become arrays, maps objects, and what is not a finite number null. Pure.
 */
export function plainAnswer(value: unknown): unknown {
  if (typeof value === 'number') return Number.isFinite(value) ? value : null;
  if (typeof value !== 'object' || value === null) return value;
  if (ArrayBuffer.isView(value) && !(value instanceof DataView))
    return Array.from(value as unknown as ArrayLike<number>, plainAnswer);
  if (Array.isArray(value)) return value.map(plainAnswer);
  const entries = value instanceof Map ? [...value.entries()] : Object.entries(value);
  return Object.fromEntries(entries.map(([name, member]: [unknown, unknown]) => [String(name), plainAnswer(member)]));
}
