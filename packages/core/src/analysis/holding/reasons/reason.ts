import type { HeapGraph } from '../../../model/heap-graph.ts';
import { NOBODY } from '../dominators.ts';
import { heldBytesOf } from '../held-set.ts';
import type { Holding } from '../holding.ts';

/** A usual reason why much stays, found in an inventory. */
export interface Reason {
  readonly code: string;
  readonly sentence: string;
  /** What was looked for, so that one can judge whether it is meant. */
  readonly rule: string;
  /** What to try. */
  readonly advice: string;
  /** What would go with it: exactly, or at least. */
  readonly heldBytes: number;
  readonly objects: number;
  /** The objects themselves, as a find of the view and the type to open. */
  readonly find: string;
  readonly key: string;
}

/** What a rule looks at. */
export interface ReasonSubject {
  readonly holding: Holding;
  readonly source: 'jvm' | 'v8';
  /** False where some of it could not be read: what an object refers to may be missing. */
  readonly isWhole: boolean;
  /** Below so many bytes nothing is said. */
  readonly leastBytes: number;
}

/** A rule: what is usual, looked for in the graph. Some passes over objects and references at most. */
export type ReasonRule = (subject: ReasonSubject) => readonly Reason[];

/** Types of numbers that are objects. */
export const BOXES = /^java\.lang\.(?:Integer|Long|Double|Float|Short|Byte|Character|Boolean)$|^number$/;

/** Ids of types by a test of their names. */
export function typesWhere(graph: HeapGraph, isIt: (name: string) => boolean): ReadonlySet<number> {
  return new Set(graph.types.flatMap((name, type) => (isIt(name) ? [type] : [])));
}

/** Objects of some types that can be reached. */
export function objectsOf({ graph, dominators }: Holding, types: ReadonlySet<number>): number[] {
  const found: number[] = [];
  if (types.size === 0) return found;
  const isIt = new Uint8Array(graph.types.length);
  for (const type of types) isIt[type] = 1;
  for (let object = 0; object < graph.objects; object++)
    if (isIt[graph.typeId[object]!] === 1 && dominators.rankOf[object] !== 0) found.push(object);
  return found;
}

/** What some objects hold together, exactly: one search around them. */
export function heldTogether({ graph, dominators }: Holding, objects: readonly number[]): number {
  const isMember = new Uint8Array(graph.objects);
  for (const object of objects) isMember[object] = 1;
  return heldBytesOf(graph, dominators, isMember);
}

/** Own bytes of some objects. */
export function ownTogether({ graph }: Holding, objects: readonly number[]): number {
  return objects.reduce((bytes, object) => bytes + graph.ownBytes[object]!, 0);
}

/** What an object refers to by a reference of a name; NOBODY for nothing. */
export function referred(graph: HeapGraph, object: number, name: number): number {
  for (let edge = graph.firstEdge[object]!; edge < graph.firstEdge[object + 1]!; edge++)
    if (graph.edgeName[edge] === name) return graph.edgeTo[edge]!;
  return NOBODY;
}

/** A type as a term of a find. */
export function findType(type: string): string {
  return /[\s"]/.test(type) ? `type="${type.replaceAll('"', '')}"` : `type=${type}`;
}
