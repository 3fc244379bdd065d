/** A recording's name as the beginning of a file's: letters, digits and few marks, at most 80 of them. */
export function fileBase(name: string): string {
  return name.replace(/[^\p{L}\p{N}._-]+/gu, '-').slice(0, 80) || 'recording';
}
