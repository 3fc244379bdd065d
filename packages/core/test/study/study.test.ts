import { EMPTY_NOTEBOOK } from '../../src/formats/recording-file/notebook.ts';
import { Recording } from '../../src/model/recording.ts';
import { piece, PieceStore } from '../../src/study/piece.ts';
import { WHOLE_SIDE } from '../../src/study/side.ts';
import { Study } from '../../src/study/study.ts';
import { addObject, followObjects } from '../build-recording.ts';

function made(): Recording {
  const recording = new Recording('recording');
  recording.addHeap('main');
  recording.heaps[0]!.limitBytes = 2 ** 30;
  followObjects(recording);
  addObject(recording, { bornMs: 1, bytes: 8, site: 'keep' });
  recording.reach(1000);
  return recording;
}

test('settings are those of the notebook, and what is given stands instead', () => {
  const recording = made();
  const noted = { ...EMPTY_NOTEBOOK, limitBytes: 2 ** 20, settleMs: 7000, ownRules: ['src/'] };
  const study = new Study({ runs: [recording] }, noted, { settleMs: 10 });
  expect(study.settings).toEqual({ limitBytes: 2 ** 20, settleMs: 10, ownRules: ['src/'] });
  expect([study.run().limitBytes(), study.run().ownRules]).toEqual([2 ** 20, ['src/']]);
  study.note({ ...EMPTY_NOTEBOOK, limitBytes: 2 ** 24 });
  expect([study.run().limitBytes(), study.run().ownRules]).toEqual([2 ** 24, []]);
  study.note(EMPTY_NOTEBOOK);
  expect(study.run().limitBytes()).toBe(2 ** 30);
});

test('a study grows with its source, and every run is one of its own', () => {
  const runs: Recording[] = [];
  const study = new Study({ runs });
  expect(() => study.run()).toThrow('nothing of this recording has arrived yet');
  runs.push(made());
  const first = study.side(WHOLE_SIDE).subject;
  expect(study.side(WHOLE_SIDE).subject).toBe(first);
  runs.push(made());
  expect(study.side(WHOLE_SIDE).subject).not.toBe(first);
  expect(study.side({ ...WHOLE_SIDE, run: 0 }).subject).toBe(first);
});

test('what answers share is made anew when the recording has grown or a setting is another', () => {
  const recording = made();
  const study = new Study({ runs: [recording] });
  let times = 0;
  const COUNTED = piece('counted', () => ++times);
  const got = (): number => study.side(WHOLE_SIDE).subject.get(COUNTED, null);
  expect([got(), got()]).toEqual([1, 1]);
  addObject(recording, { bornMs: 2, bytes: 8, site: 'keep' });
  expect(got()).toBe(2);
  study.note({ ...EMPTY_NOTEBOOK, limitBytes: 5 });
  expect([got(), got()]).toEqual([3, 3]);
});

test('pieces of other inputs are others, and the oldest goes first', () => {
  const store = new PieceStore();
  const asked: string[] = [];
  const NAMED = piece('named', (_: null, { name }: { readonly name: string }) => asked.push(name) && name, 2);
  const ALSO = piece('named', (_: null, { name }: { readonly name: string }) => `also ${name}`, 2);
  expect(store.get(NAMED, null, { name: 'a' })).toBe('a');
  // Two kinds of one name do not mix.
  expect(store.get(ALSO, null, { name: 'a' })).toBe('also a');
  for (const name of ['b', 'a', 'c', 'a']) store.get(NAMED, null, { name });
  expect(asked).toEqual(['a', 'b', 'c', 'a']);
  store.renew('grown');
  store.get(NAMED, null, { name: 'a' });
  expect(asked).toHaveLength(5);
});
