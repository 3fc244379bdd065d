import { readFileSync, statSync } from 'node:fs';
import { findSourceMap, SourceMap, type SourceMapPayload } from 'node:module';
import { fileURLToPath, pathToFileURL } from 'node:url';

/** A place in a source file: line and column from 1. */
export interface SourcePlace {
  readonly url: string;
  readonly line: number;
  readonly column: number;
}

/** Text of a file that only its map carries: by the file's address. */
export type CarriedText = (url: string) => string | undefined;

/** Larger maps would hold up the recorded program while they are read. */
const MOST_MAP_BYTES = 32 * 1024 * 1024;
const MOST_FILES = 500;
const MAP_COMMENT = /^\s*\/\/[#@] sourceMappingURL=(\S+)\s*$/gm;
const INLINE = /^data:application\/json[^,]*?(;base64)?,(.*)$/s;

/** A file's map, and where it lies. */
interface FileMap {
  readonly map: SourceMap;
  readonly baseUrl: string;
}

/**
 * Finds the place in the source that a place in the running code was made from, where a source map tells it: one that
 * the runtime knows already, that the file carries, or that lies beside it. Dependencies are left as they are. Never
 * throws.
 */
export class SourcePlaces {
  private readonly maps = new Map<string, FileMap | null>();
  private readonly texts = new Map<string, string>();
  /** True once a place was found by a map. */
  hasMapped = false;

  /** The place itself where no map tells another. */
  of(url: string, line: number, column: number): SourcePlace {
    const here = { url, line, column };
    if (line < 1 || !isOwnFile(url)) return here;
    try {
      const found = this.mapOf(url);
      const entry = found?.map.findEntry(line - 1, Math.max(0, column - 1));
      if (
        found === null ||
        found === undefined ||
        entry === undefined ||
        !('originalSource' in entry) ||
        typeof entry.originalSource !== 'string'
      )
        return here;
      this.hasMapped = true;
      return {
        url: addressOf(found, entry.originalSource),
        line: entry.originalLine + 1,
        column: entry.originalColumn + 1,
      };
    } catch {
      return here;
    }
  }

  /** Text that a map carries of a file that need not be on the disk. */
  readonly carried: CarriedText = (url) => this.texts.get(url);

  private mapOf(url: string): FileMap | null {
    const known = this.maps.get(url);
    if (known !== undefined) return known;
    let found: FileMap | null = null;
    try {
      if (this.maps.size < MOST_FILES) found = readMap(url);
    } catch {
      found = null;
    }
    this.maps.set(url, found);
    if (found !== null) this.keepTexts(found);
    return found;
  }

  private keepTexts(found: FileMap): void {
    const { sources, sourcesContent } = found.map.payload;
    sources.forEach((source, at) => {
      const text = sourcesContent?.[at];
      if (typeof text === 'string') this.texts.set(addressOf(found, source), text);
    });
  }
}

function addressOf({ map, baseUrl }: FileMap, source: string): string {
  const root = map.payload.sourceRoot ?? '';
  const given = root === '' || /^[a-z][a-z0-9+.-]+:/i.test(source) ? source : `${root.replace(/\/?$/, '/')}${source}`;
  return given.startsWith('/') ? pathToFileURL(given).href : new URL(given, baseUrl).href;
}

function isOwnFile(url: string): boolean {
  return (url.startsWith('file:') || url.startsWith('/')) && !url.includes('/node_modules/');
}

function readMap(url: string): FileMap | null {
  const path = url.startsWith('file:') ? fileURLToPath(url) : url;
  const fileUrl = pathToFileURL(path).href;
  const registered = findSourceMap(path) ?? findSourceMap(fileUrl);
  if (registered !== undefined) return { map: registered, baseUrl: fileUrl };
  const named = [...readFileSync(path, 'utf8').matchAll(MAP_COMMENT)].pop()?.[1];
  if (named === undefined) return null;
  const inline = INLINE.exec(named);
  if (inline !== null)
    return {
      map: parsed(
        inline[1] === undefined ? decodeURIComponent(inline[2]!) : Buffer.from(inline[2]!, 'base64').toString('utf8'),
      ),
      baseUrl: fileUrl,
    };
  const mapUrl = new URL(named, fileUrl);
  if (mapUrl.protocol !== 'file:' || statSync(mapUrl).size > MOST_MAP_BYTES) return null;
  return { map: parsed(readFileSync(mapUrl, 'utf8')), baseUrl: mapUrl.href };
}

function parsed(text: string): SourceMap {
  return new SourceMap(JSON.parse(text.replace(/^\)\]\}'[^\n]*\n/, '')) as SourceMapPayload);
}
