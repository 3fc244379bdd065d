import type { SideAsk } from '@brisk-heron/core';
import { aheadAsker } from '../../src/stores/ahead.ts';
import type { Asking } from '../../src/stores/question.ts';

const WHOLE: SideAsk = { recording: 'weirs', extent: { kind: 'whole' } };
const spanned = (fromMs: number, toMs: number): SideAsk => ({ ...WHOLE, extent: { kind: 'span', fromMs, toMs } });

let nowMs: number;
let asked: { side: SideAsk; measure: string }[];
let release: (() => void)[];

beforeEach(() => {
  [nowMs, asked, release] = [0, [], []];
  jest.spyOn(performance, 'now').mockImplementation(() => nowMs);
});
afterEach(() => jest.restoreAllMocks());

/** Asks of a side whose answers take so long; asks of any other wait until they are released. */
function askingOf(side: SideAsk, tookMs: number): Asking {
  const measure = (name: string): Promise<never> => {
    asked.push({ side, measure: name });
    nowMs += tookMs;
    return Promise.resolve({} as never);
  };
  const measureOf = (other: SideAsk, name: string): Promise<never> => {
    asked.push({ side: other, measure: name });
    return new Promise((done) => release.push(() => done({} as never)));
  };
  return { side, measure, measureOf } as unknown as Asking;
}

const done = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 0));

async function view(ahead: ReturnType<typeof aheadAsker>, side: SideAsk, tookMs: number): Promise<void> {
  const asking = ahead.noting(askingOf(side, tookMs));
  await asking.measure('growth', {});
  await asking.measure('ribbon', {});
  asked = [];
}

test('the first answer of a view is asked for at a span that may be chosen, one at a time', async () => {
  const ahead = aheadAsker();
  // How long an answer takes is not known yet: that of the whole may have been there.
  await view(ahead, WHOLE, 5);
  ahead.expect(WHOLE, { fromMs: 10, toMs: 20 });
  ahead.expect(WHOLE, { fromMs: 10, toMs: 30 });
  expect(asked).toEqual([{ side: spanned(10, 20), measure: 'growth' }]);
  release[0]!();
  await done();
  // Where it rests already it need not be asked again.
  ahead.expect(WHOLE, { fromMs: 10, toMs: 20 });
  ahead.expect(WHOLE, { fromMs: 10, toMs: 30 });
  expect(asked).toHaveLength(2);
});

test('where answers come soon nothing is asked ahead; one of what was asked before says nothing of that', async () => {
  const ahead = aheadAsker();
  await view(ahead, spanned(0, 5), 20);
  ahead.expect(WHOLE, { fromMs: 10, toMs: 20 });
  expect(asked).toEqual([]);
  await view(ahead, spanned(0, 50), 200);
  ahead.expect(WHOLE, { fromMs: 10, toMs: 20 });
  release[0]!();
  await done();
  await view(ahead, spanned(10, 20), 5);
  await view(ahead, WHOLE, 5);
  ahead.expect(WHOLE, { fromMs: 30, toMs: 40 });
  expect(asked).toEqual([{ side: spanned(30, 40), measure: 'growth' }]);
});

test('nothing is asked ahead of a recording that was closed, or of a view that asks no measure', async () => {
  const ahead = aheadAsker();
  ahead.expect(WHOLE, { fromMs: 10, toMs: 20 });
  await view(ahead, WHOLE, 200);
  ahead.reset();
  ahead.expect(WHOLE, { fromMs: 10, toMs: 20 });
  await view(ahead, WHOLE, 200);
  ahead.noting(askingOf(WHOLE, 200));
  ahead.expect(WHOLE, { fromMs: 10, toMs: 20 });
  expect(asked).toEqual([]);
});
