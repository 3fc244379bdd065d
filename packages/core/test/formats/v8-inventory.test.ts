import { InputReader } from '../../src/formats/input-reader.ts';
import { SNAPSHOT } from './a-snapshot.ts';
import { readInventoryOf as read, told } from './told-inventory.ts';

const text = new TextEncoder();

test('a heap snapshot tells objects, references and roots, wherever it is cut into chunks', () => {
  const bytes = text.encode(JSON.stringify(SNAPSHOT));
  const whole = read(bytes);
  expect(told(whole)).toEqual(['root stack roots → (scope)', '(scope).service → Service', 'Service.name → string']);
  expect(Array.from(whole.graph.ownBytes)).toEqual([0, 0, 40, 24, 32, 16]);
  for (const chunk of [64, 65, 99]) expect(told(read(bytes, chunk))).toEqual(told(whole));
  const cut = read(bytes.slice(0, bytes.length - 30));
  expect(cut.defects.join()).toMatch(/could not be read whole: it is cut off/);
  const odd = read(text.encode(JSON.stringify({ ...SNAPSHOT, more: { strings: ['"', ']'], n: [[1]] } })));
  expect(told(odd)).toEqual(told(whole));
});

test('a value of a weak map is told of its key alone, by one name', () => {
  const weak = structuredClone(SNAPSHOT);
  // The scope refers to the service, the key of a pair; the string, its value, is told of it and of the table (Gone).
  const pair = 'part of key (Service @7) -> value (string @9) pair in WeakMap (table @11)';
  weak.strings.push(`1 / ${pair}`, `77 / ${pair}`);
  weak.nodes[3 * 7 + 4] = 3;
  weak.nodes[5 * 7 + 4] = 1;
  weak.edges = [
    [1, 1, 7],
    [1, 1, 14],
    [0, 5, 21],
    [2, 7, 28],
    [6, 1, 35],
    [3, 8, 28],
    [3, 9, 28],
  ].flat();
  expect(told(read(text.encode(JSON.stringify(weak))))).toEqual([
    'root stack roots → (scope)',
    '(scope).service → Service',
    'Service.name → string',
    'Service.(value in a WeakMap) → string',
  ]);
});

test('what hangs in no page is told by the flag of the runtime, named by browsers or not', () => {
  const detached = structuredClone(SNAPSHOT);
  // The service, and what it is in; a string is a string.
  for (const node of [3, 4]) detached.nodes[node * 7 + 6] = 2;
  for (const name of ['Service', 'Detached Service']) {
    detached.strings[3] = name;
    expect(told(read(text.encode(JSON.stringify(detached))))).toEqual([
      'root stack roots → (scope)',
      '(scope).service → Service (detached)',
      'Service (detached).name → string',
    ]);
  }
});

test('a description without the columns that are needed is told, and nothing is made up', () => {
  const { meta } = SNAPSHOT.snapshot;
  const without = { ...SNAPSHOT, snapshot: { meta: { ...meta, node_fields: ['type', 'name'] } } };
  const reader = new InputReader();
  reader.write(text.encode(JSON.stringify(without)));
  expect(reader.end()).toMatchObject({ ok: false });
});
