import { partsAsker } from '../../src/stores/asking.ts';
import { pauseQuestions } from '../../src/stores/pause-questions.ts';

/** An asker whose rounds end when they are told to. */
function held() {
  const rounds: (readonly string[])[] = [];
  const ends: (() => void)[] = [];
  const asker = partsAsker(['ribbon', 'view', 'selection'], (parts) => {
    rounds.push(parts);
    return new Promise<void>((resolve) => {
      ends.push(resolve);
    });
  });
  const end = async (): Promise<void> => {
    ends.shift()!();
    await new Promise((resolve) => setTimeout(resolve));
  };
  return { ...asker, rounds, end };
}

test('without names all parts are asked for, with names those', async () => {
  const { refresh, rounds, end } = held();
  void refresh();
  await end();
  void refresh('view');
  await end();
  expect(rounds).toEqual([['ribbon', 'view', 'selection'], ['view']]);
});

test('what is wanted while a round runs is asked for once, after it', async () => {
  const { refresh, rounds, end } = held();
  void refresh('ribbon');
  for (const part of ['view', 'selection', 'view'] as const) void refresh(part);
  expect(rounds).toEqual([['ribbon']]);
  await end();
  expect(rounds).toEqual([['ribbon'], ['view', 'selection']]);
  await end();
  void refresh('ribbon');
  expect(rounds).toHaveLength(3);
  await end();
});

test('a round is told what is wanted anew, which it need not ask for', async () => {
  const asked: string[] = [];
  let release = (): void => undefined;
  const asker = partsAsker(['ribbon', 'view', 'selection'], async (parts, isDue) => {
    for (const part of parts) {
      if (isDue(part)) continue;
      asked.push(part);
      if (asked.length === 1)
        await new Promise<void>((resolve) => {
          release = resolve;
        });
    }
  });
  const done = asker.refresh();
  await Promise.resolve();
  void asker.refresh('view');
  release();
  await done;
  // The first round passes the view over, the second asks for it.
  expect(asked).toEqual(['ribbon', 'selection', 'view']);
});

test('a round that ends at once was never long', async () => {
  const { refresh, isBusy, end } = held();
  void refresh();
  await end();
  await new Promise((resolve) => setTimeout(resolve, 500));
  expect(isBusy.value).toBe(false);
});

test('kinds of pauses are asked for with the ribbon, goals and edges without; another run keeps the latter', () => {
  const asked: boolean[] = [];
  const { pauseKind, moment, goalMs, edgesMs, ...pauses } = pauseQuestions((onRibbon) => {
    asked.push(onRibbon);
  });
  const usual = goalMs.value;
  pauses.pickKind({ by: 'cause', name: 'System.gc()' });
  pauses.setGoal(20);
  pauses.setEdges([1, 5]);
  pauses.lookAt({ fromMs: 1, toMs: 2 });
  expect(asked).toEqual([true, false, false]);
  pauses.resetRun();
  expect([pauseKind.value, moment.value, goalMs.value, edgesMs.value]).toEqual([null, null, 20, [1, 5]]);
  pauses.reset();
  expect([goalMs.value, edgesMs.value]).toEqual([usual, null]);
});
