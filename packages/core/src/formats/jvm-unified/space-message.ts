import { NumberScanner, unitBytes } from '../scan-number.ts';
import type { SpaceSize } from './collection-details.ts';

const scanner = new NumberScanner();
/** Names that are constants need no hash of their own for every line. */
const REGIONS = ['Eden', 'Survivor', 'Old', 'Archive', 'Humongous'];
/** Metaspace lies outside the heap. */
const GENERATIONS = ['PSYoungGen', 'ParOldGen', 'DefNew', 'Tenured', 'Metaspace'];

/**
 * Reads a line of `gc,heap`: `Eden regions: 6->0(8)` (in regions of `regionBytes`) or
 * `ParOldGen: 0K(44032K)->904K(44032K)`. Null for any other, and for a cut one.
 */
export function readSpaceMessage(message: string, regionBytes: number): SpaceSize | null {
  const colon = message.indexOf(': ');
  if (colon < 0) return null;
  if (message.startsWith(' regions', colon - 8)) {
    const known = REGIONS.find((name) => name.length === colon - 8 && message.startsWith(name));
    return readRegions(known ?? message.slice(0, colon - 8), message, colon + 2, regionBytes);
  }
  const name = GENERATIONS.find((each) => each.length === colon && message.startsWith(each));
  return name === undefined ? null : readGeneration(name, message, colon + 2);
}

function readRegions(name: string, text: string, from: number, regionBytes: number): SpaceSize | null {
  const before = scanner.read(text, from);
  if (!text.startsWith('->', scanner.end)) return null;
  const after = scanner.read(text, scanner.end + 2);
  // Followed by the target count, or by nothing: a figure at the very end may be cut, which only a complete line rules
  // out.
  if (Number.isNaN(before + after) || Number.isNaN(regionBytes)) return null;
  return { name, beforeBytes: before * regionBytes, afterBytes: after * regionBytes };
}

function readGeneration(name: string, text: string, from: number): SpaceSize | null {
  const before = scanner.read(text, from) * unitBytes(text.charCodeAt(scanner.end));
  const arrow = text.indexOf('->', scanner.end);
  if (arrow < 0) return null;
  const after = scanner.read(text, arrow + 2) * unitBytes(text.charCodeAt(scanner.end));
  if (Number.isNaN(before + after)) return null;
  const open = text.indexOf('(', scanner.end);
  const capacity = open < 0 ? NaN : scanner.read(text, open + 1) * unitBytes(text.charCodeAt(scanner.end));
  return { name, beforeBytes: before, afterBytes: after, capacityBytes: capacity };
}
