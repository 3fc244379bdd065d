import { EMPTY_NOTEBOOK, type MeasureAsk, type Notebook, notebookSchema } from '@brisk-heron/core';
import { createPinia, setActivePinia } from 'pinia';
import { useChanges } from '../../src/questions/changes/changes-state.ts';
import { partOf, partMembers, WHOLE } from '../../src/questions/changes/side-part.ts';
import { useLedger } from '../../src/questions/ledger/ledger-state.ts';
import { useSites } from '../../src/questions/sites/sites-state.ts';
import type { Asking } from '../../src/stores/question.ts';
import { recordingNotebook } from '../../src/stores/recording-notebook.ts';
import { useWorkspace } from '../../src/stores/workspace.ts';

jest.mock('../../src/worker/worker-client.ts', () =>
  jest.requireActual<typeof import('../../src/worker/client-core.ts')>('../../src/worker/client-core.ts'),
);

beforeEach(() => setActivePinia(createPinia()));

/** How a question asks here: `answer` is told the measure and what is asked of it. */
const askingOf = (answer: (measure: string, ask: unknown) => unknown, current = true): Asking => ({
  measure: (async (measure: string, ask: unknown) => answer(measure, ask)) as unknown as Asking['measure'],
  measureOf: (async (_side: unknown, measure: string, ask: unknown) =>
    answer(measure, ask)) as unknown as Asking['measureOf'],
  pair: (async (sides: unknown, measure: string, ask: object) =>
    answer(measure, { ...ask, sides })) as unknown as Asking['pair'],
  openBeside: async (id) => void answer('open', id),
  side: { recording: 'here' },
  look: { charge: 'ownFrame', find: '' },
  later: () => undefined,
  isCurrent: () => current,
});

const FIVE_TO_NINE = { ...WHOLE, extent: { kind: 'span', fromMs: 5, toMs: 9 } } as const;

describe('what changed', () => {
  const answered = { a: {}, b: {}, roundLabels: [], figures: [], keys: [] };
  const asked = (): { calls: [string, unknown][]; asking: Asking } => {
    const calls: [string, unknown][] = [];
    return {
      calls,
      asking: askingOf((measure, ask) => {
        calls.push([measure, ask]);
        return answered;
      }),
    };
  };

  test('asks nothing while no other side is chosen, then opens it beside and asks of both', async () => {
    const changes = useChanges();
    const { calls, asking } = asked();
    await changes.ask(asking);
    expect(calls).toEqual([]);
    changes.compareWith('there', WHOLE, false);
    await changes.ask(asking);
    const whole = { kind: 'whole' };
    expect(calls).toEqual([
      ['open', 'there'],
      [
        'comparison',
        expect.objectContaining({ sides: [{ recording: 'there', run: null, extent: whole }, { recording: 'here' }] }),
      ],
    ]);
    changes.turn();
    await changes.ask(asking);
    expect(calls.at(-1)![1]).toMatchObject({ sides: [{ recording: 'here' }, { recording: 'there' }] });
  });

  test('two spans of one recording need no other one opened', async () => {
    const changes = useChanges();
    const { calls, asking } = asked();
    changes.compareWith('here', { ...WHOLE, extent: { kind: 'span', fromMs: 0, toMs: 1000 } }, false);
    await changes.ask(asking);
    expect(calls.map(([measure]) => measure)).toEqual(['comparison']);
    const span = { kind: 'span', fromMs: 0, toMs: 1000 };
    expect(calls[0]![1]).toMatchObject({
      sides: [{ recording: 'here', run: null, extent: span }, { recording: 'here' }],
    });
  });

  test.each([
    [WHOLE],
    [FIVE_TO_NINE],
    [{ run: 3, extent: { kind: 'whole' } }],
    [{ run: 0, extent: { kind: 'moment', tMs: 1234.5 } }],
    [{ run: null, extent: { kind: 'round', label: 'tide: over 2', number: 7 } }],
  ] as const)('the part %j of a side comes back from the address', (part) => {
    expect(partOf(new Map(partMembers(part)))).toEqual(part);
  });

  test('an address that tells nonsense of a side tells nothing of it', () => {
    const nonsense = new Map([
      ['otherrun', '0'],
      ['otherspan', '9~5'],
      ['othermoment', 'soon'],
      ['otherround', '0:tide'],
    ]);
    expect(partOf(nonsense)).toEqual(WHOLE);
  });

  test('says why there is no answer, and keeps its sides in the address', async () => {
    const changes = useChanges();
    changes.compareWith('gone', FIVE_TO_NINE, true);
    await changes.ask(
      askingOf((measure) => {
        if (measure === 'open') throw new Error('this recording is not in this browser');
        return answered;
      }),
    );
    expect([changes.problem, changes.answer]).toEqual(['this recording is not in this browser', null]);
    const members = new Map(changes.address.write());
    expect(Object.fromEntries(members)).toEqual({ other: 'gone', otherspan: '5~9', otheris: 'after' });
    changes.reset();
    changes.address.read(members);
    expect([changes.otherId, changes.otherPart, changes.isOtherAfter]).toEqual(['gone', FIVE_TO_NINE, true]);
  });
});

describe('the notebook', () => {
  const made = () => {
    const stored: Notebook[] = [];
    return { stored, notes: recordingNotebook((notebook) => stored.push(notebook)) };
  };

  test('keeps moments by name in order of time, each once, and stores every change', () => {
    const { stored, notes } = made();
    notes.keepMoment(5000, ' late ');
    notes.keepMoment(1000);
    notes.keepMoment(5000, 'later');
    expect(notes.notebook.value.moments).toEqual([
      { name: '0:01.0', tMs: 1000 },
      { name: 'later', tMs: 5000 },
    ]);
    notes.dropMoment(1000);
    expect(stored).toHaveLength(4);
    expect(stored.at(-1)).toEqual({ ...EMPTY_NOTEBOOK, moments: [{ name: 'later', tMs: 5000 }] });
    expect(notebookSchema.parse(JSON.parse(JSON.stringify(stored.at(-1))))).toEqual(stored.at(-1));
  });

  test('keeps the head of a live recording every so often, once it was asked to', () => {
    const { notes } = made();
    notes.keepHead(1000);
    expect(notes.notebook.value.moments).toEqual([]);
    notes.momentEveryMs.value = 10_000;
    for (const headMs of [2000, 4000, 11_000, 12_500, 22_600]) notes.keepHead(headMs);
    expect(notes.notebook.value.moments.map(({ tMs }) => tMs)).toEqual([2000, 12_500, 22_600]);
    notes.open(undefined);
    expect([notes.notebook.value, notes.momentEveryMs.value]).toEqual([EMPTY_NOTEBOOK, null]);
  });

  test('of an older file lacks what came later, and is read all the same', () => {
    expect(notebookSchema.parse({ limitBytes: null, settleMs: 8000, moments: [] })).toEqual({
      ...EMPTY_NOTEBOOK,
      settleMs: 8000,
    });
    expect(notebookSchema.safeParse({ limitBytes: -1, settleMs: null, moments: [] }).success).toBe(false);
  });
});

describe('who allocates', () => {
  const made = () => {
    const asked: [string, unknown][] = [];
    const who = useSites();
    const answer = (measure: string, ask: unknown): unknown => {
      asked.push([measure, ask]);
      return measure === 'paths' ? { open: ['', '1', '1,2'], children: {}, cells: [] } : { measure };
    };
    return { who, asked, ask: (current = true) => who.ask(askingOf(answer, current)) };
  };

  test('asks for the sums whatever is shown, and for the rest only when it is', async () => {
    const { who, asked, ask } = made();
    await ask();
    expect(asked.map(([call]) => call)).toEqual(['sites']);
    who.set({ mode: 'sizes' });
    await ask();
    expect(asked.map(([call]) => call)).toEqual(['sites', 'sizes', 'sites']);
  });

  test('opens the heaviest way once, and what was opened stays open', async () => {
    const { who, asked, ask } = made();
    who.set({ mode: 'paths' });
    await ask();
    await ask();
    const paths = asked.filter(([call]) => call === 'paths').map(([, given]) => given as MeasureAsk<'paths'>);
    expect(paths.map(({ heaviestFrom }) => heaviestFrom)).toEqual(['', null]);
    expect(paths[1]!.open).toEqual(['', '1', '1,2']);
    who.toggle('1');
    expect(who.open).toEqual(['']);
    who.set({ direction: 'allocation' });
    expect([who.open, who.focus]).toEqual([[''], '']);
  });

  test('what is opened while an answer is awaited stays, and so does a way that is asked for', async () => {
    const { who, asked, ask } = made();
    who.set({ mode: 'paths' });
    await ask();
    const waiting = ask();
    who.toggle('7');
    who.openHeaviest('7');
    await waiting;
    expect(who.open).toEqual(['', '1', '1,2', '7']);
    await ask();
    const last = asked.filter(([call]) => call === 'paths').at(-1)![1] as MeasureAsk<'paths'>;
    expect([last.open, last.heaviestFrom, last.focus]).toEqual([['', '1', '1,2', '7'], '7', null]);
  });

  test('only the picture asks for cells', async () => {
    const { who, asked, ask } = made();
    who.set({ mode: 'picture' });
    who.focusOn('1');
    await ask();
    expect((asked.find(([call]) => call === 'paths')![1] as MeasureAsk<'paths'>).focus).toBe('1');
  });

  test('drops an answer that is no longer wanted', async () => {
    const { who, ask } = made();
    who.set({ mode: 'paths' });
    await ask(false);
    expect([who.paths, who.sites]).toEqual([null, null]);
  });
});

test('the ledger stays at the place that a time or a collection led to', async () => {
  const asked: MeasureAsk<'ledger'>[] = [];
  let changes = 0;
  jest.spyOn(useWorkspace(), 'refresh').mockImplementation(async () => {
    changes++;
  });
  const book = useLedger();
  const ask = () =>
    book.ask(
      askingOf((_, given) => {
        // The runs are asked for after the lines.
        if ((given as MeasureAsk<'ledger'>).runs === false) asked.push(given as MeasureAsk<'ledger'>);
        return { total: 100, place: 42, aimed: 45, lines: [], runs: [] };
      }),
    );
  book.go({ kind: 'time', tMs: 5000 });
  await ask();
  await ask();
  expect(asked.map(({ aim }) => aim)).toEqual([
    { kind: 'time', tMs: 5000 },
    { kind: 'place', place: 42 },
  ]);
  expect(book.active).toBe(45);
  book.fit(12);
  book.fit(12);
  book.fit(0);
  expect([book.count, changes]).toEqual([12, 2]);
  // Lines 42 to 53 are in sight: within them nothing is asked for.
  book.goTo(53);
  expect([book.active, changes]).toEqual([53, 2]);
  book.goTo(54);
  // Until its lines are here, keys go on from it.
  expect([book.active, book.isGoing]).toEqual([54, true]);
  await ask();
  expect(book.isGoing).toBe(false);
  book.goTo(3);
  await ask();
  expect(asked.slice(-2).map(({ aim }) => aim)).toEqual([
    { kind: 'place', place: 43 },
    { kind: 'place', place: 3 },
  ]);
  book.goTo(500);
  expect(book.active).toBe(99);
  // Room for fewer lines before the question is asked: the line is in sight all the same.
  book.fit(5);
  await ask();
  expect(asked.at(-1)).toMatchObject({ aim: { kind: 'place', place: 95 }, count: 5 });
  book.reset();
  await ask();
  expect(asked.at(-1)!.aim).toEqual({ kind: 'place', place: 0 });
});
