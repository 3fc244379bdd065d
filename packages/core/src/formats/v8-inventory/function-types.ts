/** What a snapshot's nodes and edges look like while function types are looked up. */
export interface SnapshotRows {
  readonly nodes: number;
  readonly isFunction: (node: number) => boolean;
  readonly nameOf: (node: number) => string;
  readonly edgeCount: Uint32Array;
  readonly edgeTo: Uint32Array;
  /** What an edge is called; '' for one that has no name. */
  readonly labelOf: (edge: number) => string;
}

/** Scripts of the recorder of Node programs. */
const RECORDER = /[/\\](?:recorder-node|@brisk-heron[/\\]recorder-node)[/\\](?:dist|src)[/\\]/;
/** What its functions are told as: nobody's, since they hold what is only there because it is recorded. */
export const OF_THE_RECORDER = '(of the recorder)';
const SCRIPT = /^script(?:_or_debug_info)?$/;

/**
 * What each function is told as: `function handler (alerts.js)`, without the file where its code is of none, as that of
 * the runtime. Keyed by node. One pass over the edges.
 */
export function functionTypes(rows: SnapshotRows): Map<number, string> {
  const { nodes, isFunction, nameOf, edgeCount, edgeTo, labelOf } = rows;
  const firstEdge = new Uint32Array(nodes + 1);
  for (let node = 0; node < nodes; node++)
    firstEdge[node + 1] = Math.min(edgeTo.length, firstEdge[node]! + edgeCount[node]!);
  const follow = (node: number, isIt: (label: string) => boolean): number => {
    for (let edge = firstEdge[node]!; edge < firstEdge[node + 1]!; edge++)
      if (isIt(labelOf(edge)) && edgeTo[edge]! < nodes) return edgeTo[edge]!;
    return -1;
  };
  const types = new Map<number, string>();
  // Functions of one piece of source share what tells where it is.
  const fileOf = new Map<number, string>();
  for (let node = 0; node < nodes; node++) {
    if (!isFunction(node)) continue;
    const shared = follow(node, (label) => label === 'shared');
    let file = fileOf.get(shared);
    if (file === undefined) {
      const script = shared < 0 ? -1 : follow(shared, (label) => SCRIPT.test(label));
      file = script < 0 ? '' : (/[^/\\]*$/.exec(nameOf(script))?.[0] ?? '');
      if (script >= 0 && nameOf(script).startsWith('node:')) file = nameOf(script);
      if (script >= 0 && RECORDER.test(nameOf(script))) file = OF_THE_RECORDER;
      fileOf.set(shared, file);
    }
    if (file === OF_THE_RECORDER) types.set(node, file);
    else
      types.set(
        node,
        ['function', nameOf(node), file === '' ? '' : `(${file})`].filter((word) => word !== '').join(' '),
      );
  }
  return types;
}
