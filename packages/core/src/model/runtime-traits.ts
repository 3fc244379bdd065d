/** Collectors that rules and advice tell apart; `other` for any that is not known. */
export type CollectorKind = 'g1' | 'parallel' | 'serial' | 'cms' | 'z' | 'shenandoah' | 'v8' | 'go' | 'other';

/** One collector of a runtime, or a family of collectors that behave alike. */
export interface CollectorTraits {
  readonly kind: CollectorKind;
  /** In what the source calls its collector; the first that fits is it. */
  readonly fits: RegExp;
  /** What gives objects that die soon after promotion the time to die young. */
  readonly roomForYoung: string;
  /** What to do where survivors find no room. */
  readonly roomForSurvivors: string;
  /** What was promoted is told by what lives at two instants, so that what died of it is a hint only. */
  readonly promotesInPlace: boolean;
  /** Capacities that it prints are the heap's, and not its next goal. */
  readonly capacityIsHeap: boolean;
  /** Its heap is resized by design, all the time. */
  readonly resizesByDesign: boolean;
}

/** Causes of collections that say who wanted them. */
export interface CauseTraits {
  /** A tool from outside the program. */
  readonly diagnostic: RegExp | null;
  /** The clock, or foresight. */
  readonly periodic: RegExp | null;
  /** Memory outside the heap. */
  readonly outside: RegExp | null;
}

/**
 * What the words of one runtime mean. A format sets them for what it reads; whoever needs to know asks here, and nobody
 * guesses from a display text (docs/adding-a-runtime.md).
 */
export interface RuntimeTraits {
  readonly name: 'jvm' | 'v8' | 'go' | 'cpython' | 'ruby' | 'unknown';
  /** True for what a source calls this runtime. */
  readonly fits: RegExp;
  /** Spaces that hold promoted objects. */
  readonly oldSpaces: ReadonlySet<string>;
  /** Spaces of objects too large for the young one. */
  readonly largeSpaces: ReadonlySet<string>;
  /** Spaces that a log tells beside those of the heap, and that lie outside it. */
  readonly outsideSpaces: ReadonlySet<string>;
  /** Operations that stop the program for the collector; null where none are told. */
  readonly collectorOperations: RegExp | null;
  readonly causes: CauseTraits;
  /** What a frame's line is: where its function begins, or the line that allocates. */
  readonly lineMeans: 'function' | 'allocation';
  /**
   * Files of frames that an engine inside the runtime made of a script; null where there are none. Where nobody says
   * what the engineer's own code is, it is those rather than the engine's.
   */
  readonly scriptFiles: RegExp | null;
  /** How the lines of a collection are found around its own: by the number it has, or those right before; null: alone. */
  readonly linesOfCollection: { readonly named: (gcId: number) => string } | { readonly before: number } | null;
  /** A command of such a program, to show how it is recorded. */
  readonly exampleCommand: string;
  /** What is advised where the program itself asks for collections. */
  readonly askedForAdvice: string;
  readonly collectors: readonly CollectorTraits[];
}

/** A collector of which nothing is known. */
export const ANY_COLLECTOR: CollectorTraits = {
  kind: 'other',
  fits: /^/,
  roomForYoung: 'a larger young space',
  roomForSurvivors:
    'Too little was free in one piece in the old space: start collecting it earlier, or give it more room.',
  promotesInPlace: false,
  capacityIsHeap: true,
  resizesByDesign: false,
};

/** A runtime of which nothing is known. */
export const UNKNOWN_RUNTIME: RuntimeTraits = {
  name: 'unknown',
  scriptFiles: null,
  fits: /^/,
  oldSpaces: new Set(['Old', 'Old generation', 'Old space']),
  largeSpaces: new Set(['Large object space']),
  outsideSpaces: new Set(),
  collectorOperations: null,
  causes: { diagnostic: null, periodic: null, outside: null },
  lineMeans: 'function',
  linesOfCollection: null,
  exampleCommand: 'node app.js',
  askedForAdvice: 'Find who calls for a collection and take the call out: the runtime collects when it must.',
  collectors: [ANY_COLLECTOR],
};
