import { valuesOf } from '../../src/model/heap-values.ts';
import { InputReader } from '../../src/formats/input-reader.ts';
import { textOfBytes } from '../../src/formats/jvm-inventory/text-of-bytes.ts';
import { arrayBytes, instanceBytes, LAYOUTS } from '../../src/formats/jvm-inventory/object-sizes.ts';
import type { HoldingAnswer } from '../../src/measures/holding.ts';
import { askMeasure } from '../../src/measures/registry.ts';
import { Study } from '../../src/study/study.ts';
import { seeded } from '../seeded.ts';
import { SNAPSHOT } from './a-snapshot.ts';
import { DumpWriter } from './dump-writer.ts';
import { readInventoryOf as read, told } from './told-inventory.ts';

const text = new TextEncoder();

// A service with a static map of handlers, weak references to them, and one that comes before its class.
function dump(idBytes: 4 | 8): DumpWriter {
  const dump = new DumpWriter(idBytes);
  const object = dump.class('java/lang/Object', 0, {});
  const reference = dump.class('java/lang/ref/Reference', object, {
    fields: { referent: 'ref', discovered: 'ref', queue: 'ref' },
  });
  const weak = dump.class('java/lang/ref/WeakReference', reference, {});
  const soft = dump.class('java/lang/ref/SoftReference', reference, {});
  const handler = dump.class('tide/Handler', object, { fields: { id: 'long', next: 'ref' } });
  const array = dump.class('[Ltide/Handler;', object, {});
  const handlers = [0x10_000, 0x10_018, 0x10_030];
  dump.class('tide/Service', object, { statics: { watch: ['ref', 0x20_000], level: ['int', 7] } });
  handlers.forEach((at, n) =>
    dump.instance(at, handler, [
      ['long', n],
      ['ref', handlers[n + 1] ?? 0],
    ]),
  );
  dump.references(0x20_000, array, [...handlers, 0]);
  dump.bytes(0x30_000, 100);
  dump.instance(0x40_000, weak, [
    ['ref', handlers[0]!],
    ['ref', handlers[1]!],
    ['ref', 0],
  ]);
  dump.instance(0x40_100, soft, [
    ['ref', 0x30_000],
    ['ref', 0],
    ['ref', 0],
  ]);
  dump.instance(0x40_200, 0x99_900, [['ref', handlers[2]!]]);
  dump.root(0x05, dump.classAt('tide/Service'));
  dump.root(0x03, 0x40_100);
  dump.root(0x03, 0x40_000);
  dump.class('tide/Late', object, { fields: { kept: 'ref' }, at: 0x99_900 });
  return dump;
}

describe.each([4, 8] as const)('a heap dump with ids of %i bytes', (idBytes) => {
  const bytes = dump(idBytes).finish();

  test('tells objects, references and roots, wherever it is cut into chunks', () => {
    const whole = read(bytes);
    expect(whole.defects).toEqual([]);
    const lines = told(whole);
    expect(lines).toEqual(
      expect.arrayContaining([
        'root class of the runtime → tide.Service',
        'root stack of a thread → java.lang.ref.SoftReference',
        'tide.Service.watch → tide.Handler[]',
        'tide.Handler.next → tide.Handler',
        'java.lang.ref.SoftReference.referent (soft) → byte[]',
        'tide.Late.kept → tide.Handler',
      ]),
    );
    expect(lines.filter((line) => line.startsWith('tide.Handler[].[]'))).toHaveLength(3);
    expect(lines.filter((line) => line.startsWith('java.lang.ref.WeakReference.referent'))).toEqual([]);
    for (const chunk of [1, 2, 3, 7, 64]) expect(told(read(bytes, chunk))).toEqual(lines);
  });

  test('cut off or damaged, it is read as far as it is good, and that is said', () => {
    for (let length = bytes.length - 1; length > 200; length -= 7) {
      const reader = new InputReader();
      reader.write(bytes.slice(0, length));
      const result = reader.end();
      if (!result.ok) continue;
      const { graph, defects } = result.runs[0]!.inventories[0]!;
      expect(graph.firstEdge[graph.objects]).toBe(graph.edgeTo.length);
      if (length < bytes.length - 9) expect(defects.join()).toMatch(/cut off after|whose class|the class did not come/);
    }
    const torn = new DumpWriter(idBytes);
    torn.class('tide/Good', 0, {});
    torn.raw([0x77]);
    expect(read(torn.finish()).defects.join()).toMatch(/at byte \d+ a part of a heap dump, found tag 119 was expected/);
  });
});

test('a frame is told by the name of its thread, those of a pool together', () => {
  const dump = new DumpWriter(4);
  const object = dump.class('java/lang/Object', 0, {});
  const string = dump.class('java/lang/String', object, { fields: { value: 'ref' } });
  const thread = dump.class('java/lang/Thread', object, { fields: { name: 'ref' } });
  const u4 = (value: number): number[] => [24, 16, 8, 0].map((shift) => (value >>> shift) & 255);
  const names = ['tide-1', 'tide-22', 'weir', '', 'none'];
  names.forEach((name, n) => {
    const [of, text, letters, local] = [0, 1, 2, 3].map((part) => 0x10_000 + 0x1000 * n + 0x100 * part);
    dump.instance(of!, thread, [['ref', text!]]);
    dump.instance(text!, string, [['ref', letters!]]);
    dump.raw([0x23, ...u4(letters!), ...u4(0), ...u4(name.length), 8, ...Buffer.from(name)]);
    dump.instance(local!, object, []);
    // The frame may come before its thread. No frame is of the last, which has the number 0.
    const number = n === 4 ? 0 : n + 1;
    dump.raw([
      ...(n === 4 ? [0x05, ...u4(local!)] : [0x03, ...u4(local!), ...u4(number), ...u4(0)]),
      0x08,
      ...u4(of!),
      ...u4(number),
      ...u4(0),
    ]);
  });
  const roots = told(read(dump.finish())).filter((line) => line.startsWith('root stack'));
  expect(roots.sort()).toEqual([
    'root stack of a thread → java.lang.Object',
    'root stack of thread “tide-…” → java.lang.Object',
    'root stack of thread “tide-…” → java.lang.Object',
    'root stack of thread “weir” → java.lang.Object',
  ]);
});

test('what stands in fields that are no references is kept, and of which types there are none', () => {
  const dump = new DumpWriter(8);
  const object = dump.class('java/lang/Object', 0, {});
  const link = dump.class('tide/Link', object, { fields: { next: 'ref' } });
  const reference = dump.class('java/lang/ref/Reference', object, { fields: { referent: 'ref' } });
  const weak = dump.class('tide/WeakKey', reference, { fields: { hash: 'int' } });
  const bare = dump.class('tide/BareKey', reference, {});
  dump.instance(0x99_000, bare, [['ref', 0x100_000]]);
  dump.instance(0x99_100, weak, [
    ['int', 7],
    ['ref', 0x100_000],
  ]);
  const level = dump.class('tide/Level', link, { fields: { gauge: 'ref', metres: 'int', at: 'long' } });
  dump.instance(0x100_000, link, [['ref', 0]]);
  for (let n = 0; n < 3; n++)
    dump.instance(0x100_100 + n * 64, level, [
      ['ref', 0],
      ['int', n - 1],
      ['long', 4e9 + n],
      ['ref', 0x100_000],
    ]);
  const bytes = dump.finish();
  for (const chunk of [bytes.length, 3]) {
    const { graph } = read(bytes, chunk);
    const rows = (type: string): number[] =>
      Array.from(graph.typeId.keys()).filter((row) => graph.types[graph.typeId[row]!] === type);
    expect(rows('tide.Level').map((row) => valuesOf(graph.values, row))).toEqual(
      [0, 1, 2].map((n) => [
        { name: 'metres', value: String(n - 1) },
        { name: 'at', value: String((4e9 + n) % 2 ** 32) },
      ]),
    );
    expect(rows('tide.Link').map((row) => valuesOf(graph.values, row))).toEqual([null]);
    const without = [...graph.values.typesWithout].map((type) => graph.types[type]);
    expect([without.includes('tide.Link'), without.includes('tide.Level')]).toEqual([true, false]);
    // What they are weak references to is not seen, so that what is in them is not known.
    expect(rows('tide.WeakKey').map((row) => valuesOf(graph.values, row))).toEqual([null]);
    expect(without.includes('tide.BareKey')).toBe(false);
  }
});

test('own bytes follow the layout that the distances of objects show', () => {
  const dump = new DumpWriter(8);
  const object = dump.class('java/lang/Object', 0, {});
  const pair = dump.class('tide/Pair', object, { fields: { level: 'int', left: 'ref', right: 'ref' } });
  // With compressed references: 12 + 4 + 4 + 4 is 24; two bytes are 16 + 2, rounded up.
  let at = 0x100_000;
  for (let n = 0; n < 60; n++) {
    dump.instance(at, pair, [
      ['int', n],
      ['ref', 0],
      ['ref', 0],
    ]);
    dump.bytes(at + 24, 2);
    at += 48;
  }
  const { graph } = read(dump.finish());
  const sizes = new Map(Array.from(graph.typeId, (type, each) => [graph.types[type]!, graph.ownBytes[each]!]));
  expect([sizes.get('tide.Pair'), sizes.get('byte[]')]).toEqual([24, 24]);
});

test('a JVM that puts objects on multiples of sixteen is told by that', () => {
  const dump = new DumpWriter(8);
  const object = dump.class('java/lang/Object', 0, {});
  const pair = dump.class('tide/Pair', object, { fields: { level: 'int', left: 'ref', right: 'ref' } });
  for (let n = 0, at = 0x100_000; n < 60; n++, at += 64) {
    dump.instance(at, pair, [
      ['int', n],
      ['ref', 0],
      ['ref', 0],
    ]);
    dump.bytes(at + 32, 2);
  }
  const { graph, notes } = read(dump.finish());
  expect(new Set(graph.ownBytes.slice(2))).toEqual(new Set([32]));
  expect(notes.join()).toContain('addresses by 16');
});

test('fields lie in the gaps that those of the classes above leave', () => {
  const [packed] = LAYOUTS;
  expect(instanceBytes(packed!, [])).toBe(16);
  expect(instanceBytes(packed!, [[8]])).toBe(24);
  // The int goes into the gap before the long.
  expect(instanceBytes(packed!, [[8], [4]])).toBe(24);
  expect(instanceBytes(packed!, [[0, 0, 4, 1]])).toBe(32);
  expect([arrayBytes(packed!, 0, 1), arrayBytes(packed!, 1, 8), arrayBytes(packed!, 3, 4)]).toEqual([16, 24, 32]);
});

test.each([
  ['a heap dump', (): Uint8Array => dump(8).finish()],
  ['a heap snapshot', (): Uint8Array => text.encode(JSON.stringify(SNAPSHOT))],
])('%s that is damaged anywhere is read or refused, and what is read fits together', (_, make) => {
  const whole = make();
  const random = seeded(33);
  for (let tries = 0; tries < 600; tries++) {
    const bytes = whole.slice();
    for (let flips = 1 + Math.floor(random() * 4); flips > 0; flips--)
      bytes[64 + Math.floor(random() * (bytes.length - 64))] = Math.floor(random() * 256);
    const reader = new InputReader();
    for (let at = 0; at < bytes.length; at += 301) reader.write(bytes.slice(at, at + 301));
    const result = reader.end();
    if (!result.ok) continue;
    const study = new Study({ runs: result.runs });
    const { graph } = result.runs[0]!.inventories[0]!;
    expect(Math.max(0, ...graph.edgeTo)).toBeLessThan(graph.objects);
    expect(Math.max(0, ...graph.roots)).toBeLessThan(graph.objects);
    const { objects, unreachable } = askMeasure(study, {}, 'holding', {}) as HoldingAnswer;
    expect(objects + unreachable.objects).toBe(graph.objects);
  }
});

test('sampled objects that were tied into a dump are found in it, and what tied them is not told', () => {
  for (const idBytes of [4, 8] as const) {
    const writer = dump(idBytes);
    const object = writer.classAt('java/lang/Object');
    const array = writer.class('[Ljava/lang/Object;', object, {});
    writer.references(0x60_000, array, [0x60_100, 0x60_200]);
    writer.references(0x60_100, array, [0x10_018, 0x10_000, 0x30_000]);
    // The sign, one in three, and an id for each.
    writer.longs(0x60_200, [
      [0x42_72_69_73, 0x6b_48_72_6e],
      [0, 3],
      [0, 12],
      [1, 7],
      [0, 5],
    ]);
    writer.root(0x05, 0x60_000);
    const bytes = writer.finish();
    for (const chunk of [bytes.length, 1, 13]) {
      const { graph, sampled } = read(bytes, chunk);
      expect(sampled.oneIn).toBe(3);
      const idOf = new Map(Array.from(sampled.object, (row, at) => [graph.id[row]!, sampled.sourceId[at]!]));
      expect([...idOf].sort(([a], [b]) => a - b)).toEqual([
        [0x10_000, 2 ** 32 + 7],
        [0x10_018, 12],
        [0x30_000, 5],
      ]);
      const ties = [0x60_000, 0x60_100, 0x60_200].map((at) => graph.id.indexOf(at));
      for (const tie of ties) {
        expect(graph.ownBytes[tie]).toBe(0);
        expect(graph.firstEdge[tie + 1]! - graph.firstEdge[tie]!).toBe(0);
        expect(graph.roots.includes(tie)).toBe(false);
      }
    }
    // A program's own numbers that begin so are its own.
    const other = dump(idBytes);
    other.longs(0x60_200, [
      [0x42_72_69_73, 0x6b_48_72_6e],
      [0, 1],
    ]);
    expect(read(other.finish()).sampled.object).toHaveLength(0);
  }
});

test('arrays with the same in them have one number, blank ones none', () => {
  const writer = dump(8);
  writer.bytes(0x70_000, 40, 9);
  writer.bytes(0x70_100, 40, 9);
  writer.bytes(0x70_200, 40, 8);
  writer.bytes(0x70_300, 40, 0);
  const { graph } = read(writer.finish(), 11);
  const [one, same, other, blank] = [0x70_000, 0x70_100, 0x70_200, 0x70_300].map(
    (at) => graph.content[graph.id.indexOf(at)]!,
  );
  expect(one).toBe(same);
  expect(one).not.toBe(other);
  expect(blank).toBe(0);
});

test('what stands in strings is kept as far as there is room, and one object is told with its fields', () => {
  const writer = new DumpWriter(8);
  const object = writer.class('java/lang/Object', 0, {});
  const string = writer.class('java/lang/String', object, { fields: { value: 'ref' } });
  const gauge = writer.class('tide/Gauge', object, { fields: { name: 'ref', next: 'ref' } });
  const letters = [...new TextEncoder().encode('Heron Point')];
  writer.raw([0x23, ...u8(0x50_000), 0, 0, 0, 0, 0, 0, 0, letters.length, 8, ...letters]);
  writer.instance(0x50_100, string, [['ref', 0x50_000]]);
  writer.instance(0x50_200, gauge, [
    ['ref', 0x50_100],
    ['ref', 0],
  ]);
  writer.root(0x05, 0x50_200);
  for (const chunk of [1, 7, 1 << 20]) {
    const reader = new InputReader();
    const bytes = writer.finish();
    for (let at = 0; at < bytes.length; at += chunk) reader.write(bytes.slice(at, at + chunk));
    const result = reader.end();
    if (!result.ok) throw new Error(result.message);
    const { graph } = result.runs[0]!.inventories[0]!;
    const row = graph.id.indexOf(0x50_200);
    const study = new Study({ runs: result.runs });
    const { object: told } = askMeasure(study, {}, 'holding', { key: 'tide.Gauge', object: row }) as HoldingAnswer;
    expect(told).toMatchObject({ fieldCount: 1, referrerCount: 0, self: { id: 0x50_200, type: 'tide.Gauge' } });
    const text = 'Heron Point';
    expect(told!.fields).toMatchObject([{ words: 'tide.Gauge.name', other: { type: 'java.lang.String', text } }]);
    expect((askMeasure(study, {}, 'holding', { object: 10_000 }) as HoldingAnswer).object).toBeNull();
  }
});

const u8 = (value: number): number[] => [
  0,
  0,
  0,
  0,
  (value >>> 24) & 255,
  (value >>> 16) & 255,
  (value >>> 8) & 255,
  value & 255,
];

test('bytes that are no text are told as none', () => {
  expect(textOfBytes(Uint8Array.of(72, 105), false)).toBe('Hi');
  expect(textOfBytes(Uint8Array.of(72, 0, 105, 0), true)).toBe('Hi…');
  expect(textOfBytes(Uint8Array.of(0, 72, 0, 105), false)).toBe('Hi');
  expect(textOfBytes(Uint8Array.of(1, 2, 3, 200), false)).toBe('');
  expect(textOfBytes(new Uint8Array(0), false)).toBe('');
});
