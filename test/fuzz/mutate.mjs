/** Changes an input as faults and hostile hands do. `next` gives numbers from 0 to 1, `other` is another input. */
export function mutate(bytes, other, next) {
  let out = bytes;
  for (let times = 1 + Math.floor(next() * 4); times > 0; times--)
    out = WAYS[Math.floor(next() * WAYS.length)](out, other, next);
  return out;
}

const at = (bytes, next) => Math.floor(next() * (bytes.length + 1));
const joined = (...parts) => Buffer.concat(parts);
const digits = (next) =>
  Buffer.from(
    [
      '999999999999999',
      '-1',
      '0',
      '1e308',
      '4294967296',
      '0.000000001',
      '18446744073709551615',
      '-9223372036854775808',
      'NaN',
      '1e-9',
      '281474976710656',
    ][Math.floor(next() * 11)],
  );
const words = (next) =>
  Buffer.from(
    [
      '__proto__',
      'constructor',
      '\u0000\u0000',
      '\ufeff',
      '\u202e',
      'Pause Full',
      'GC(18446744073709551615)',
      '{"k":"hello"}',
      '\n\n\n',
      '\r',
      '"',
      '[[[[',
      '{'.repeat(50),
      ' '.repeat(200),
      'toString',
    ][Math.floor(next() * 15)],
  );

function lineAt(bytes, next) {
  const from = bytes.lastIndexOf(10, at(bytes, next)) + 1;
  const end = bytes.indexOf(10, from);
  return [from, end < 0 ? bytes.length : end + 1];
}

// A number in the input, at random.
function numberAt(bytes, next) {
  for (let tries = 0; tries < 20; tries++) {
    let from = at(bytes, next);
    while (from < bytes.length && !(bytes[from] >= 48 && bytes[from] <= 57)) from++;
    let to = from;
    while (to < bytes.length && ((bytes[to] >= 48 && bytes[to] <= 57) || bytes[to] === 46)) to++;
    if (to > from) return [from, to];
  }
  return [0, 0];
}

const WAYS = [
  (bytes, _, next) => {
    const out = Buffer.from(bytes);
    for (let n = 1 + Math.floor(next() * 8); n > 0 && out.length > 0; n--)
      out[Math.floor(next() * out.length)] = Math.floor(next() * 256);
    return out;
  },
  (bytes, _, next) => bytes.subarray(0, at(bytes, next)),
  (bytes, _, next) => bytes.subarray(at(bytes, next)),
  (bytes, _, next) => {
    const [from, to] = numberAt(bytes, next);
    return joined(bytes.subarray(0, from), digits(next), bytes.subarray(to));
  },
  (bytes, _, next) => {
    const [from, to] = numberAt(bytes, next);
    return joined(bytes.subarray(0, to), bytes.subarray(from, to), bytes.subarray(to));
  },
  (bytes, _, next) => {
    const [from, to] = numberAt(bytes, next);
    return joined(bytes.subarray(0, from), Buffer.from('-'), bytes.subarray(from, to), bytes.subarray(to));
  },
  (bytes, _, next) => {
    const [from, to] = lineAt(bytes, next);
    return joined(bytes.subarray(0, from), bytes.subarray(to));
  },
  (bytes, _, next) => {
    const [from, to] = lineAt(bytes, next);
    const place = lineAt(bytes, next)[0];
    return joined(bytes.subarray(0, place), bytes.subarray(from, to), bytes.subarray(place));
  },
  (bytes, other, next) => joined(bytes.subarray(0, at(bytes, next)), other.subarray(at(other, next))),
  (bytes, other, next) => {
    const [from, to] = lineAt(other, next);
    const place = lineAt(bytes, next)[0];
    return joined(bytes.subarray(0, place), other.subarray(from, to), bytes.subarray(place));
  },
  (bytes, _, next) => {
    const place = at(bytes, next);
    return joined(bytes.subarray(0, place), words(next), bytes.subarray(place));
  },
];
