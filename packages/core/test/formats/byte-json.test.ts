import { makeLetters } from '../../src/base/line-batch.ts';
import { ByteJson, type TextLetters } from '../../src/formats/byte-json.ts';
import { ByteTemplate } from '../../src/formats/byte-template.ts';
import { seeded } from '../seeded.ts';

function lettersOf(text: string): TextLetters {
  const letters = makeLetters(text.length);
  letters.bytes.set(Buffer.from(text, 'latin1'));
  return { ...letters, slice: (from, to) => text.slice(from, to) };
}

function read(text: string): Record<string, unknown> | null {
  const json = new ByteJson();
  if (!json.read(lettersOf(text), 0, text.length)) return null;
  const members = json.names.map((name, at) => [`${json.within[at]!}/${name}`, json.values[at]] as const);
  return Object.fromEntries(members);
}

test('an object of plain members is read as JSON reads it', () => {
  expect(read('{}')).toEqual({});
  expect(read('{"a":1,"b":-2.50,"c":{"d":null,"e":true,"f":{"g":"two words"}},"h":1e3}')).toEqual({
    '/a': 1,
    '/b': -2.5,
    'c/d': null,
    'c/e': true,
    'f/g': 'two words',
    '/h': 1000,
  });
  // More digits than fit a double's fifteen.
  expect(read('{"a":0.00039370100000002406}')).toEqual({ '/a': 0.00039370100000002406 });
});

test.each([
  ['', 'nothing'],
  ['[1]', 'an array'],
  ['{"a":[1]}', 'an array within'],
  ['{"a":"\\n"}', 'an escape'],
  ['{"a":"é"}', 'letters beyond ASCII'],
  ['{"a":01}', 'a zero ahead'],
  ['{"a":1.}', 'a fraction without digits'],
  ['{"a":.5}', 'a fraction alone'],
  ['{"a":+1}', 'a plus'],
  ['{"a":1e}', 'an exponent without digits'],
  ['{"a":nul}', 'half a literal'],
  ['{"a":1,}', 'a comma too many'],
  ['{"a" :1}', 'blanks'],
  ['{"a":1}}', 'a brace too many'],
  ['{"a":{"b":1}', 'a brace too few'],
  ['{"a":1} ', 'a blank behind'],
])('%s is left to others: %s', (text) => {
  expect(read(text)).toBeNull();
});

test('what is read of a damaged object is what JSON reads', () => {
  const random = seeded(7);
  const pick = (count: number): number => Math.floor(random() * count);
  const whole =
    '{"GC_FLAGS":{"major_by":"nofree","gc_by":null},"GC_TIME":0.0003937,"GC_INVOKE_TIME":12e-3,"N":-0,"IS":true}';
  const pieces = ['', '"', ':', ',', '{', '}', '.', '0', '-', 'e', 'null', '\\', ' ', '"a":1,'];
  let readable = 0;
  for (let mutant = 0; mutant < 20_000; mutant++) {
    const place = pick(whole.length);
    const text = whole.slice(0, place) + pieces[pick(pieces.length)]! + whole.slice(place + pick(3));
    const found = read(text);
    if (found === null) continue;
    readable++;
    const flat: Record<string, unknown> = {};
    const flatten = (value: object, within: string): void => {
      for (const [name, each] of Object.entries(value) as [string, unknown][])
        if (typeof each === 'object' && each !== null) flatten(each, name);
        else flat[`${within}/${name}`] = each;
    };
    flatten(JSON.parse(text) as object, '');
    expect(found).toEqual(flat);
  }
  expect(readable).toBeGreaterThan(1000);
});

test('a template fits its line alone, and gives the numbers between its letters', () => {
  const template = new ByteTemplate('at %fs: %d of %d, %* ms');
  const fits = (text: string): number[] | null =>
    template.fits(lettersOf(text), 0) ? [...template.values, template.end] : null;
  expect(fits('at 1.5s: 2 of 30, 0.5+1/2 ms')).toEqual([1.5, 2, 30, 28]);
  expect(fits('at 15s: 2 of 30, 0.5 ms, and more')).toEqual([15, 2, 30, 23]);
  for (const other of [
    '',
    'at ',
    'at 1.s: 2 of 3, 1 ms',
    'at 1s: 2.5 of 3, 1 ms',
    'at 1s: 2 of 3,  ms',
    'at 1s: 2 of 3, 1',
  ])
    expect(fits(other)).toBeNull();
});
