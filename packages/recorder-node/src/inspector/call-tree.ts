import type { LineSink } from '../line-sink.ts';
import type { SourcePlace } from '../source-places.ts';

const MOST_CHARS = 400;

/** A node of the runtime's sampling tree, as the inspector gives it. */
export interface SamplingNode {
  readonly callFrame: {
    readonly functionName: string;
    readonly url: string;
    readonly lineNumber: number;
    readonly columnNumber: number;
  };
  readonly selfSize: number;
  readonly id: number;
  readonly children: readonly SamplingNode[];
}

/** A sample of the inspector's profile. */
export interface Sample {
  readonly size: number;
  readonly nodeId: number;
  readonly ordinal: number;
}

/** Path id of a node that belongs to the recorder itself. */
export const OWN_PATH = -2;

/** What a call tree tells its frames to, and how it reads them. */
export interface CallTreeOptions {
  readonly writer: LineSink;
  /** True for files of the recorder itself. */
  readonly isOwn: (url: string) => boolean;
  /** Called once for each new frame. */
  readonly onFrame: (url: string, line: number) => void;
  /** The place in the source of a place in the running code; itself where it is left out. */
  readonly placeOf?: (url: string, line: number, column: number) => SourcePlace;
}

/**
 * Gives call paths stable ids: the runtime renumbers its nodes at every reading, so a path is known by its frames.
 * New frames and paths are told to the stream before the lines that use them.
 */
export class CallTree {
  private readonly writer: LineSink;
  private readonly onFrame: (url: string, line: number) => void;
  private readonly isOwn: (url: string) => boolean;
  private readonly placeOf: (url: string, line: number, column: number) => SourcePlace;
  private readonly frames = new Map<string, number>();
  private readonly paths = new Map<string, number>();

  constructor({ writer, isOwn, onFrame, placeOf }: CallTreeOptions) {
    this.writer = writer;
    this.isOwn = isOwn;
    this.onFrame = onFrame;
    this.placeOf = placeOf ?? ((url, line, column) => ({ url, line, column }));
  }

  /** Path id of every node, OWN_PATH for those of the recorder; the root, which is no frame, is −1. */
  number(head: SamplingNode): Map<number, number> {
    const byNode = new Map<number, number>([[head.id, -1]]);
    const firstFrame = this.frames.size;
    const firstPath = this.paths.size;
    const added: Added = { fn: [], file: [], line: [], col: [], parent: [], frame: [] };
    const stack: { node: SamplingNode; parent: number }[] = head.children.map((node) => ({ node, parent: -1 }));
    for (let next = stack.pop(); next !== undefined; next = stack.pop()) {
      const { node, parent } = next;
      const own = parent === OWN_PATH || this.isOwn(node.callFrame.url);
      const path = own ? OWN_PATH : this.pathId(node, parent, added);
      byNode.set(node.id, path);
      for (const child of node.children) stack.push({ node: child, parent: path });
    }
    const { fn, file, line, col, parent, frame } = added;
    if (fn.length > 0) this.writer.add({ k: 'frames', first: firstFrame, fn, file, line, col });
    if (parent.length > 0) this.writer.add({ k: 'paths', first: firstPath, parent, frame });
    return byNode;
  }

  private pathId(node: SamplingNode, parent: number, added: Added): number {
    const frame = this.frameId(node, added);
    const key = `${parent}>${frame}`;
    const known = this.paths.get(key);
    if (known !== undefined) return known;
    const id = this.paths.size;
    this.paths.set(key, id);
    added.parent.push(parent);
    added.frame.push(frame);
    return id;
  }

  // The runtime counts lines and columns from 0, and gives −1 for its own frames.
  private frameId(node: SamplingNode, added: Added): number {
    const { functionName, url, lineNumber, columnNumber } = node.callFrame;
    const key = `${functionName}|${url}|${lineNumber}|${columnNumber}`;
    const known = this.frames.get(key);
    if (known !== undefined) return known;
    const id = this.frames.size;
    this.frames.set(key, id);
    const place = this.placeOf(url, lineNumber + 1, columnNumber + 1);
    // The body of a script has no name and begins where the script does.
    added.fn.push(
      functionName === '' && url !== '' && lineNumber === 0 && columnNumber === 0 ? '(module body)' : cut(functionName),
    );
    added.file.push(cut(place.url));
    added.line.push(place.line);
    added.col.push(place.column);
    this.onFrame(place.url, place.line);
    return id;
  }
}

// Scripts out of data addresses have names of megabytes.
function cut(name: string): string {
  return name.length <= MOST_CHARS ? name : `${name.slice(0, MOST_CHARS)}…`;
}

interface Added {
  readonly fn: string[];
  readonly file: string[];
  readonly line: number[];
  readonly col: number[];
  readonly parent: number[];
  readonly frame: number[];
}
