import type { HeapValues } from './heap-values.ts';

/** Id among the names of an edge from an array to one of its elements. */
export const ELEMENT = 0;
/** What such an edge is called. */
export const ELEMENT_NAME = '[]';

/** Type of the scopes whose variables functions keep, in languages that have such. */
export const SCOPE = '(scope)';
/** The reference from such a scope to the one around it. */
export const OUTER_SCOPE = '(outer scope)';

/** What is added to the type of a part of a page that was taken out of it, as the runtime itself tells. */
export const DETACHED = ' (detached)';

/** How long a recording counts as that holds an inventory and nothing else: what has no length at all has not come yet. */
export const INSTANT_MS = 1;

/** Every object of a heap at one instant, as a runtime wrote it down. */
export interface Inventory {
  readonly graph: HeapGraph;
  readonly source: 'jvm' | 'v8';
  /** Wall clock of the instant; NaN where it is not told. */
  readonly takenEpochMs: number;
  /** Heap of the recording that it was taken of, and when, by the recording's clock; 0 of a dump alone. */
  readonly heapId: number;
  readonly tMs: number;
  /** How long the program stood still for it, in milliseconds; NaN where that is not known. */
  readonly pauseMs: number;
  /** Objects whose birth a recorder saw. */
  readonly sampled: SampledObjects;
  /** What of it could not be read, in sentences. */
  readonly defects: readonly string[];
  /** What is to be known of how it was read. */
  readonly notes: readonly string[];
}

/** Sampled objects of an inventory: rows of its graph, and the ids under which the recorder told their births. */
export interface SampledObjects {
  readonly object: Uint32Array;
  readonly sourceId: Float64Array;
  /** Of more samples than can be told one in so many was; 1 for all. */
  readonly oneIn: number;
}

/** What is known where no recorder took part. */
export const NONE_SAMPLED: SampledObjects = { object: new Uint32Array(0), sourceId: new Float64Array(0), oneIn: 1 };

/**
 * An inventory: every object of a heap at one instant, with what each refers to. Columns by object, and edges by the
 * object that refers, in the order of objects (compressed rows): edges of object n are `firstEdge[n]` up to
 * `firstEdge[n + 1]`. References that hold nothing, as weak ones, are not in it.
 */
export interface HeapGraph {
  readonly objects: number;
  /** Index into `types`. */
  readonly typeId: Uint32Array;
  /** Bytes of the object alone. */
  readonly ownBytes: Float64Array;
  /** The runtime's own number of the object: its address, or its id where it keeps one. */
  readonly id: Float64Array;
  readonly firstEdge: Uint32Array;
  readonly edgeTo: Uint32Array;
  /** Index into `names`: a field, a variable, or `ELEMENT`. */
  readonly edgeName: Uint32Array;
  /** Objects that the runtime itself refers to, one for each such reference. */
  readonly roots: Uint32Array;
  /** What each is kept by, index into `rootKinds`. */
  readonly rootKind: Uint32Array;
  readonly rootKinds: readonly string[];
  readonly types: readonly string[];
  readonly names: readonly string[];
  /** Objects that are known by a name of their own, as classes are: what stands for their type in a way. */
  readonly ownName: ReadonlyMap<number, string>;
  /**
   * A number made of what is in a string or an array of basic values: alike for alike contents; 0 for other objects and
   * where it is not told.
   */
  readonly content: Uint32Array;
  /**
   * Beginnings of the texts of strings, and of arrays that may be those of strings, by object: of as many as there is
   * room for, and of none that came with a recording.
   */
  readonly text: ReadonlyMap<number, string>;
  /** What stands in fields that are no references; nothing of what came with a recording. */
  readonly values: HeapValues;
  /** Bytes of one reference in an array of them; NaN where the source does not tell how arrays lie. */
  readonly referenceBytes: number;
  /** Types of the runtime's library, by index into `types`: own code is the rest. */
  readonly isLibrary: Uint8Array;
}
