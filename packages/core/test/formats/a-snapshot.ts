/** A heap snapshot of six nodes, as V8 writes it. */
export const SNAPSHOT = {
  snapshot: {
    meta: {
      node_fields: ['type', 'name', 'id', 'self_size', 'edge_count', 'trace_node_id', 'detachedness'],
      node_types: [['hidden', 'array', 'string', 'object', 'code', 'closure', 'synthetic'], 'string'],
      edge_fields: ['type', 'name_or_index', 'to_node'],
      edge_types: [['context', 'element', 'property', 'internal', 'hidden', 'shortcut', 'weak'], 'string_or_number'],
    },
    node_count: 6,
  },
  // The topmost node, stack roots, a scope, a service, a string, and what a weak reference is to.
  nodes: [
    [6, 0, 1, 0, 1, 0, 0],
    [6, 1, 3, 0, 1, 0, 0],
    [3, 2, 5, 40, 1, 0, 0],
    [3, 3, 7, 24, 2, 0, 0],
    [2, 4, 9, 32, 0, 0, 0],
    [3, 6, 11, 16, 0, 0, 0],
  ].flat(),
  edges: [
    [1, 1, 7],
    [1, 1, 14],
    [0, 5, 21],
    [2, 7, 28],
    [6, 1, 35],
  ].flat(),
  strings: ['', '(Stack roots)', 'system / Context', 'Service', 'a "text" \\ with ] and }', 'service', 'Gone', 'name'],
};
