/**
 * A question of one's own to a recording's events: which of our lines make short-lived objects of at least a size, and how many a second?
 *
 *   ./heron events examples/recordings/weirkeeper-with-its-faults.heron --out events.arrow --paths paths.arrow
 *   node examples/questions/short-lived.mjs events.arrow paths.arrow 16 1000
 */
import { readFileSync } from 'node:fs';
import { tableFromIPC } from 'apache-arrow';

const [eventsFile = 'events.arrow', pathsFile = 'paths.arrow', leastBytes = '16', mostMs = '1000'] = process.argv.slice(2);
const events = tableFromIPC(readFileSync(eventsFile));
const paths = tableFromIPC(readFileSync(pathsFile));
const column = (table, name) => table.getChild(name);

const [kind, t, end, lost, size, stands, own, type, path] = ['kind', 't_ms', 'end_ms', 'lost', 'size_bytes', 'objects', 'own_frame', 'type', 'path_id'].map((name) => column(events, name));
const found = new Map();
for (let row = 0; row < events.numRows; row++) {
  // Every event is a row: those that are no objects have no size.
  if (kind.get(row) !== 'object' || !(size.get(row) >= Number(leastBytes))) continue;
  const died = end.get(row);
  if (died === null || lost.get(row) || died - t.get(row) > Number(mostMs)) continue;
  const key = `${own.get(row)} · ${type.get(row) ?? 'an object'}`;
  const entry = found.get(key) ?? { objects: 0, bytes: 0, path: path.get(row) };
  // A sampled object stands for more than itself.
  entry.objects += stands.get(row);
  entry.bytes += size.get(row) * stands.get(row);
  found.set(key, entry);
}

/** The last function names of a path: each of its rows is its parent and one frame more. */
function pathOf(id) {
  const names = [];
  for (let at = id; at !== null && names.length < 6; at = column(paths, 'parent_id').get(at)) names.push(column(paths, 'function').get(at));
  return names.reverse().join(' > ');
}

const seconds = Number(events.schema.metadata.get('duration_ms')) / 1000;
for (const [key, { objects, bytes, path: id }] of [...found].sort(([, a], [, b]) => b.bytes - a.bytes).slice(0, 10)) {
  console.log(`${(bytes / seconds / 1048576).toFixed(2).padStart(8)} MiB/s ${(objects / seconds).toFixed(0).padStart(8)}/s  ${key}\n${' '.repeat(22)}${id === null ? '' : pathOf(id)}`);
}
