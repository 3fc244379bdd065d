import { formatBytes } from '../../../base/units.ts';
import { ELEMENT, type HeapGraph } from '../../../model/heap-graph.ts';
import { NOBODY } from '../dominators.ts';
import { findType, heldTogether, type Reason, type ReasonSubject, referred } from './reason.ts';

/** An emitter with fewer listeners of one event is nothing to speak of. */
const LEAST_LISTENERS = 100;
const EVENTS = '_events';
const NAMED = /(?:listener|observer|subscriber|handler|callback|watcher)s?$/i;

/** Listeners that pile up: of Node's emitters by their events, elsewhere in what fields are called after. */
export function listenerReasons({ holding, source, leastBytes }: ReasonSubject): readonly Reason[] {
  const { graph, dominators } = holding;
  const isEvents = graph.names.map((name) => (source === 'v8' ? name === EVENTS : NAMED.test(name)));
  const found: { readonly holder: number; readonly name: number; readonly list: number; readonly count: number }[] = [];
  for (let holder = 0; holder < graph.objects; holder++) {
    if (dominators.rankOf[holder] === 0) continue;
    for (let edge = graph.firstEdge[holder]!; edge < graph.firstEdge[holder + 1]!; edge++) {
      const name = graph.edgeName[edge]!;
      if (name === ELEMENT || !isEvents[name]!) continue;
      const to = graph.edgeTo[edge]!;
      const lists = source === 'v8' ? namedLists(graph, to) : [{ list: to, name, count: countIn(graph, to) }];
      for (const each of lists) if (each.count >= LEAST_LISTENERS) found.push({ holder, ...each });
    }
  }
  return found
    .sort((a, b) => b.count - a.count)
    .slice(0, 3)
    .flatMap(({ holder, name, list, count }): Reason[] => {
      const heldBytes = heldTogether(holding, [list]);
      if (heldBytes < leastBytes) return [];
      const type = graph.ownName.get(holder) ?? graph.types[graph.typeId[holder]!]!;
      const listType = graph.types[graph.typeId[list]!]!;
      return [
        {
          code: 'listeners',
          sentence: `${count.toLocaleString('en')} listeners of “${graph.names[name]!}” hang on one ${type} and hold ${formatBytes(heldBytes)}.`,
          rule: `one object refers to ${LEAST_LISTENERS} or more listeners of one event`,
          advice: 'Remove each listener when what it listens for is over, or listen once and pass on.',
          heldBytes,
          objects: count,
          find: `${findType(listType)} held>=${dominators.heldBytes[dominators.rankOf[list]!]!}B`,
          key: listType,
        },
      ];
    });
}

// The events of an emitter: each a function, or an array of them.
function namedLists(graph: HeapGraph, events: number) {
  const lists: { list: number; name: number; count: number }[] = [];
  for (let edge = graph.firstEdge[events]!; edge < graph.firstEdge[events + 1]!; edge++) {
    const list = graph.edgeTo[edge]!;
    if (graph.types[graph.typeId[list]!] !== 'Array') continue;
    let count = 0;
    for (let at = graph.firstEdge[list]!; at < graph.firstEdge[list + 1]!; at++) {
      const isFunction = graph.types[graph.typeId[graph.edgeTo[at]!]!]!.startsWith('function');
      if (graph.edgeName[at] === ELEMENT && isFunction) count++;
    }
    lists.push({ list, name: graph.edgeName[edge]!, count });
  }
  return lists;
}

// What a collection of the library has in it: the elements of its array, whatever that is called.
function countIn(graph: HeapGraph, collection: number): number {
  const direct = elements(graph, collection);
  if (direct > 0) return direct;
  for (const field of ['elementData', 'table', 'array', 'elements', 'map']) {
    const name = graph.names.indexOf(field);
    const inner = name < 0 ? NOBODY : referred(graph, collection, name);
    if (inner === NOBODY) continue;
    return field === 'map' ? countIn(graph, inner) : elements(graph, inner);
  }
  return 0;
}

function elements({ firstEdge, edgeName }: HeapGraph, array: number): number {
  let count = 0;
  for (let edge = firstEdge[array]!; edge < firstEdge[array + 1]!; edge++) if (edgeName[edge] === ELEMENT) count++;
  return count;
}
