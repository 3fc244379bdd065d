import { eventFilesOf } from '../../src/stores/event-files.ts';
import { CancelledError } from '../../src/worker/worker-client.ts';

jest.mock('../../src/worker/worker-client.ts', () =>
  jest.requireActual<typeof import('../../src/worker/client-core.ts')>('../../src/worker/client-core.ts'),
);

test('what goes wrong with a file is told beside it, and another can be written', async () => {
  const answers = [new Error('no room'), null, new CancelledError()];
  const asked: string[] = [];
  const files = eventFilesOf(() => ({
    ask: async (call) => {
      asked.push(call);
      const answer = answers.shift();
      if (answer instanceof Error) throw answer;
      return null as never;
    },
    side: () => ({ recording: 'tides' }),
  }));
  const first = files.take('tides');
  expect(files.progress.value).toMatchObject({ doing: 'Writing the events' });
  // One at a time.
  await files.takeLedger('tides', { charge: 'site', find: '' });
  await first;
  expect([files.problem.value, files.progress.value, asked]).toEqual([
    'the file could not be written: no room',
    null,
    ['eventFiles'],
  ]);
  // Null: it was stopped, and there is nothing to save.
  await files.takeLedger('tides', { charge: 'site', find: '' });
  await files.take('tides');
  expect([files.problem.value, asked]).toEqual(['', ['eventFiles', 'ledgerFile', 'eventFiles']]);
});

test('without a recording nothing is written', async () => {
  const files = eventFilesOf(() => null);
  await files.take('tides');
  await files.stop();
  expect([files.progress.value, files.problem.value]).toEqual([null, '']);
});
