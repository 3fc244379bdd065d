import { InputReader } from '../../src/formats/input-reader.ts';
import type { Inventory } from '../../src/model/heap-graph.ts';

/** The inventory that bytes tell, in chunks of so many. @throws when there is none. */
export function readInventoryOf(bytes: Uint8Array, chunk = bytes.length): Inventory {
  const reader = new InputReader();
  for (let at = 0; at < bytes.length; at += chunk) reader.write(bytes.slice(at, at + chunk));
  const result = reader.end();
  if (!result.ok) throw new Error(result.message);
  return result.runs[0]!.inventories[0]!;
}

/** What refers to what, in words. */
export function told({ graph }: Inventory): string[] {
  const nameOf = (object: number): string => graph.ownName.get(object) ?? graph.types[graph.typeId[object]!]!;
  const lines = Array.from(
    graph.roots,
    (root, at) => `root ${graph.rootKinds[graph.rootKind[at]!]!} → ${nameOf(root)}`,
  );
  for (let object = 0; object < graph.objects; object++)
    for (let edge = graph.firstEdge[object]!; edge < graph.firstEdge[object + 1]!; edge++)
      lines.push(`${nameOf(object)}.${graph.names[graph.edgeName[edge]!]!} → ${nameOf(graph.edgeTo[edge]!)}`);
  return lines;
}
