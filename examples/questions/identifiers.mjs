/**
 * A question of one's own to an inventory: how much would identifiers save that are numbers instead of texts? All texts that are kept by
 * fields of some name are counted, each once, with what is in them; a number in the object itself takes eight bytes in their place.
 *
 *   ./heron inventory PID --tables tables
 *   node examples/questions/identifiers.mjs tables name
 */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { tableFromIPC } from 'apache-arrow';

const [folder = 'tables', field = 'id', numberBytes = '8'] = process.argv.slice(2);
const table = (name) => tableFromIPC(readFileSync(join(folder, `${name}.arrow`)));
const [objects, edges] = [table('objects'), table('edges')];
const [type, own, held] = ['type', 'own_bytes', 'held_bytes'].map((name) => objects.getChild(name));
const [from, to, name] = ['from', 'to', 'name'].map((column) => edges.getChild(column));

const isText = (object) => ['java.lang.String', 'string'].includes(type.get(object));
const texts = new Map();
const fields = new Map();
for (let edge = 0; edge < edges.numRows; edge++) {
  if (name.get(edge) !== field || !isText(to.get(edge))) continue;
  const holder = type.get(from.get(edge));
  fields.set(holder, (fields.get(holder) ?? 0) + 1);
  // What a text holds alone goes with it: its letters, where the runtime keeps them apart.
  texts.set(to.get(edge), held.get(to.get(edge)) ?? own.get(to.get(edge)));
}

const textBytes = [...texts.values()].reduce((sum, bytes) => sum + bytes, 0);
const count = [...fields.values()].reduce((sum, number) => sum + number, 0);
const saved = textBytes - count * Number(numberBytes);
console.log(`${count} fields “${field}” refer to ${texts.size} texts of ${(textBytes / 2 ** 20).toFixed(2)} MiB; as numbers they would save ${(saved / 2 ** 20).toFixed(2)} MiB.`);
for (const [holder, number] of [...fields].sort((a, b) => b[1] - a[1]).slice(0, 10)) console.log(String(number).padStart(12), holder);
