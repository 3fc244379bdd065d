import { formatBytes } from '../../../base/units.ts';
import { findType, heldTogether, type Reason, type ReasonSubject } from './reason.ts';

/** Two may be meant, as of two applications. */
const LEAST_COPIES = 3;

/** Classes that are there several times under one name: loaders that should be gone. */
export function classLoaderReasons({ holding, source, leastBytes }: ReasonSubject): readonly Reason[] {
  if (source !== 'jvm') return [];
  const { graph, dominators } = holding;
  const definesName = graph.names.indexOf('(defines)');
  if (definesName < 0) return [];
  const copies = new Map<string, number[]>();
  for (let loader = 0; loader < graph.objects; loader++) {
    if (dominators.rankOf[loader] === 0) continue;
    for (let edge = graph.firstEdge[loader]!; edge < graph.firstEdge[loader + 1]!; edge++) {
      if (graph.edgeName[edge] !== definesName) continue;
      const name = graph.ownName.get(graph.edgeTo[edge]!) ?? '';
      // Classes that the runtime makes up as it goes are many by nature.
      if (name === '' || /\$\$Lambda|\/0x|\$Proxy|GeneratedMethodAccessor/.test(name)) continue;
      const known = copies.get(name);
      if (known === undefined) copies.set(name, [loader]);
      else known.push(loader);
    }
  }
  const [name, loaders] = [...copies].sort((a, b) => b[1].length - a[1].length)[0] ?? ['', []];
  if (loaders.length < LEAST_COPIES) return [];
  const heldBytes = heldTogether(holding, loaders);
  if (heldBytes < leastBytes) return [];
  const type = graph.types[graph.typeId[loaders[0]!]!]!;
  return [
    {
      code: 'class-loaders',
      sentence: `Class ${name} is there ${loaders.length.toLocaleString('en')} times, by as many ${type} objects, which hold ${formatBytes(heldBytes)}.`,
      rule: `${LEAST_COPIES} or more loaders define a class of one name`,
      advice: 'Open the ways of the loaders: a thread, a thread-local or a driver of the old ones keeps each of them.',
      heldBytes,
      objects: loaders.length,
      find: findType(type),
      key: type,
    },
  ];
}
