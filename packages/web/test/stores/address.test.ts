import { AddressSteps, stretchOf, stretchText } from '../../src/stores/address.ts';

const members = (text: string): ReadonlyMap<string, string> => new Map(new URLSearchParams(text));

test('a stretch of time reads as it was written, to a microsecond', () => {
  expect(stretchText({ fromMs: 1200, toMs: 5400.50049 })).toBe('1200~5400.5');
  expect(stretchOf('1200~5400.5')).toEqual({ fromMs: 1200, toMs: 5400.5 });
  expect(stretchOf('-20~5')).toEqual({ fromMs: -20, toMs: 5 });
});

test('nonsense is no stretch', () => {
  for (const text of [undefined, '', '5', '5~', '~5', '9~3', '3~3', '1~2~3', 'a~b', '1~Infinity', '1~1e999'])
    expect(stretchOf(text)).toBeNull();
});

test('a burst of typing is one step back, another kind of change is its own', () => {
  const steps = new AddressSteps();
  expect(steps.next(members(''), members('find=a'), 0)).toBe('push');
  expect(steps.next(members('find=a'), members('find=ab'), 300)).toBe('replace');
  expect(steps.next(members('find=ab'), members('find=ab&charge=type'), 500)).toBe('push');
  expect(steps.next(members('find=ab&charge=type'), members('find=abc&charge=type'), 600)).toBe('push');
  expect(steps.next(members('find=abc&charge=type'), members('find=abcd&charge=type'), 9000)).toBe('push');
});

test('discrete choices are always steps, however fast', () => {
  const steps = new AddressSteps();
  expect(steps.next(members('charge=site'), members('charge=type'), 0)).toBe('push');
  expect(steps.next(members('charge=type'), members('charge=file'), 10)).toBe('push');
  expect(steps.next(members('charge=file'), members('charge=file'), 20)).toBe('replace');
});

test('after going back, what is typed is no part of the burst before', () => {
  const steps = new AddressSteps();
  steps.next(members(''), members('find=a'), 0);
  steps.rest();
  expect(steps.next(members(''), members('find=b'), 100)).toBe('push');
});
