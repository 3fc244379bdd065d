/**
 * A heap dump of many objects, read and asked who holds whom, against one plain pass over its bytes that takes every
 * eighth as a number.
 */
import { askMeasure, InputReader, Study } from '../dist/index.js';
import { medianMs, report } from './measure.mjs';

const CHUNK = 4 << 20;

for (const millions of [1, 10]) {
  const dump = dumpOf(millions * 1e6);
  const view = new DataView(dump.buffer);
  const baselineMs = medianMs(() => {
    let sum = 0;
    for (let at = 0; at + 8 <= dump.length; at += 8) sum += view.getUint32(at) * 2 ** 32 + view.getUint32(at + 4);
    return sum;
  }, 3);
  const of = `of ${millions} million objects, ${Math.round(dump.length / 2 ** 20)} MiB`;
  let from = performance.now();
  const reader = new InputReader();
  for (let at = 0; at < dump.length; at += CHUNK) reader.write(dump.subarray(at, at + CHUNK));
  const { runs } = reader.end();
  report(`a heap dump ${of}, read`, performance.now() - from, baselineMs);
  const study = new Study({ runs });
  from = performance.now();
  const { groups } = askMeasure(study, {}, 'holding', { most: 200, ways: 0 });
  report(`who holds whom ${of}, first list`, performance.now() - from, baselineMs);
  // Another key each time: what was worked out of the last is kept.
  const keys = [...groups.map(({ key }) => key).filter((key) => key !== 'tide.Entry'), 'tide.Entry'].slice(-4);
  let asked = 0;
  const asks = () => askMeasure(study, {}, 'holding', { key: keys[asked++ % keys.length], ways: 12, around: false });
  report(`why the objects of one type stay ${of}`, medianMs(asks, 3), baselineMs);
}

/** Entries of an array that a static field of a class keeps; each refers to a value and to the next. */
function dumpOf(objects) {
  const entries = Math.floor(objects / 2);
  const bytes = new Uint8Array(4096 + entries * (41 + 33 + 8) + 64);
  const view = new DataView(bytes.buffer);
  let at = 0;
  const put = {
    u1: (value) => view.setUint8((at += 1) - 1, value),
    u2: (value) => view.setUint16((at += 2) - 2, value),
    u4: (value) => view.setUint32((at += 4) - 4, value),
    id: (value) => view.setBigUint64((at += 8) - 8, BigInt(value)),
  };
  const write = (...parts) => parts.forEach(([kind, ...values]) => values.forEach((value) => put[kind](value)));
  const text = (value) => write(['u1', ...Array.from(value, (letter) => letter.charCodeAt(0))]);
  text('JAVA PROFILE 1.0.2\0');
  write(['u4', 8, 0, 1000]);
  const names = [
    'java/lang/Object',
    'tide/Entry',
    'tide/Value',
    '[Ltide/Entry;',
    'tide/Service',
    'next',
    'value',
    'all',
  ];
  names.forEach((name, n) => {
    write(['u1', 1], ['u4', 0, 8 + name.length], ['id', 0x500 + n]);
    text(name);
  });
  const classAt = (n) => 0x1000 + 0x100 * n;
  for (let n = 0; n < 5; n++) write(['u1', 2], ['u4', 0, 24, 1], ['id', classAt(n)], ['u4', 0], ['id', 0x500 + n]);
  write(['u1', 0x1c], ['u4', 0, 0]);
  const from = at;
  const [first, apart] = [0x100000, 48];
  const array = first + entries * apart;
  for (let n = 0; n < 5; n++) {
    write(['u1', 0x20], ['id', classAt(n)], ['u4', 0], ['id', n === 0 ? 0 : classAt(0), 0, 0, 0, 0, 0], ['u4', 0]);
    write(['u2', 0, n === 4 ? 1 : 0]);
    if (n === 4) write(['id', 0x507], ['u1', 2], ['id', array]);
    write(['u2', n === 1 ? 2 : n === 2 ? 1 : 0]);
    if (n === 1) write(['id', 0x505], ['u1', 2], ['id', 0x506], ['u1', 2]);
    if (n === 2) write(['id', 0x506], ['u1', 11]);
  }
  write(['u1', 0x05], ['id', classAt(4)]);
  for (let entry = 0; entry < entries; entry++) {
    const address = first + entry * apart;
    const next = entry % 8 === 7 || entry + 1 === entries ? 0 : address + apart;
    write(['u1', 0x21], ['id', address], ['u4', 0], ['id', classAt(1)], ['u4', 16], ['id', next, address + 24]);
    write(['u1', 0x21], ['id', address + 24], ['u4', 0], ['id', classAt(2)], ['u4', 8], ['id', entry]);
  }
  write(['u1', 0x22], ['id', array], ['u4', 0, entries], ['id', classAt(3)]);
  for (let entry = 0; entry < entries; entry++) put.id(first + entry * apart);
  view.setUint32(from - 4, at - from);
  return bytes.subarray(0, at);
}
