import { formatBytes } from '../../base/units.ts';

/**
 * What is said where of an exported recording only the beginning is good. `ofBytes` is NaN where the file does not tell
 * its length.
 */
export function missingOfExport(goodBytes: number, ofBytes: number): string {
  const whole = Number.isFinite(ofBytes) ? ` of ${formatBytes(ofBytes)}` : '';
  return `The file is damaged or cut off: the first ${formatBytes(goodBytes)}${whole} are good, and every figure is of that part alone. Export the recording again where it came from.`;
}

/** What is said where a compressed log breaks off. */
export function missingOfGzip(file: string): string {
  return `${file}: the compressed data is cut off or damaged; what came before was read, and every figure is of that part alone.`;
}

/** What is said of an import that was broken off. */
export function missingOfImport(readBytes: number): string {
  return `The import was broken off after ${formatBytes(readBytes)}: every figure is of that part alone. Import the files again to have the whole.`;
}
