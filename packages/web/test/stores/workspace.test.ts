import { createPinia, setActivePinia } from 'pinia';
import { PROTOCOL_VERSION, type Request } from '../../src/worker/protocol.ts';
import { QUESTIONS } from './plain-questions.ts';

/** Stands in for the worker's thread: records what it is asked and answers when told to. */
class FakeWorker {
  static last: FakeWorker;
  readonly asked: Request[] = [];
  onmessage: ((event: { data: unknown }) => void) | null = null;
  onerror: unknown = null;
  ended = false;

  constructor() {
    FakeWorker.last = this;
  }

  postMessage(request: Request): void {
    this.asked.push(request);
  }

  terminate(): void {
    this.ended = true;
  }

  calls(): string[] {
    return this.asked.map(nameOf);
  }

  /** Answers everything that waits, and what is asked upon that; the value tells its call. Tells what was asked. */
  async answerAll(): Promise<Request[]> {
    const answered: Request[] = [];
    while (this.asked.length > 0) answered.push(await this.answerOne());
    return answered;
  }

  /** Answers what has waited longest. */
  async answerOne(): Promise<Request> {
    const request = this.asked.shift()!;
    const value = { call: nameOf(request), program: 'tidewatch', clauses: [], runs: [], charges: ['ownFrame', 'site'] };
    this.onmessage?.({ data: { kind: 'answer', version: PROTOCOL_VERSION, id: request.id, value } });
    await settle();
    return request;
  }

  /** Fails everything that waits, and what is asked upon that. */
  async failAll(message: string): Promise<void> {
    while (this.asked.length > 0) {
      for (const { id } of this.asked.splice(0))
        this.onmessage?.({ data: { kind: 'failure', version: PROTOCOL_VERSION, id, message } });
      await settle();
    }
  }

  async grow(durationMs: number, recordingId = 'live-run-1'): Promise<void> {
    const changed = { kind: 'changed', recordingId, durationMs, link: 'live', warning: '' };
    this.onmessage?.({ data: { ...changed, version: PROTOCOL_VERSION } });
    await settle();
  }
}

/** The measure that was asked, or the call. */
const nameOf = (request: Request): string => (request.call === 'measure' ? request.ask.measure : request.call);

const settle = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 5));

jest.mock('../../src/worker/worker-client.ts', () => {
  const actual = jest.requireActual<typeof import('../../src/worker/client-core.ts')>(
    '../../src/worker/client-core.ts',
  );
  return {
    ...actual,
    WorkerClient: class extends actual.ClientCore {
      constructor(handlers: object) {
        super(new FakeWorker() as unknown as Worker, handlers);
      }
    },
  };
});

async function openWorkspace() {
  setActivePinia(createPinia());
  Object.assign(globalThis, { location: { origin: 'http://127.0.0.1:4517' } });
  const { useWorkspace } = await import('../../src/stores/workspace.ts');
  const workspace = useWorkspace();
  workspace.questions = QUESTIONS;
  void workspace.open('live-run-1');
  await settle();
  return { workspace, worker: FakeWorker.last };
}

test('opening asks the worker to follow the stream, and nothing before something came', async () => {
  const { worker } = await openWorkspace();
  expect(worker.asked).toMatchObject([
    { call: 'open', ask: { recordingId: 'live-run-1', streamId: 'run-1', server: 'ws://127.0.0.1:4517' } },
  ]);
  await worker.answerAll();
  expect(worker.calls()).toEqual([]);
  await worker.grow(1000);
  // What is known of the whole comes first, and then what the engineer looks at.
  expect((await worker.answerAll()).map(nameOf)).toEqual(['overview', 'ribbon', 'growth']);
  await worker.grow(2000);
  expect((await worker.answerAll()).map(nameOf)).toEqual(['ribbon', 'growth', 'overview']);
});

test('growth that comes while answers are awaited is asked for once', async () => {
  const { worker } = await openWorkspace();
  await worker.answerAll();
  await worker.grow(1000);
  for (let n = 2; n < 9; n++) await worker.grow(n * 1000);
  // One is being answered; the others of its round are wanted anew, and are asked for once.
  expect(worker.asked).toHaveLength(1);
  expect((await worker.answerAll()).map(nameOf)).toEqual(['overview', 'ribbon', 'growth', 'overview']);
});

test('growth of a recording that is open beside asks for the view alone', async () => {
  const { workspace, worker } = await openWorkspace();
  await worker.answerAll();
  await worker.grow(1000);
  await worker.answerAll();
  await worker.grow(90_000, 'another');
  expect((await worker.answerAll()).map(nameOf)).toEqual(['growth']);
  expect(workspace.durationMs).toBe(1000);
});

test('zooming asks for the ribbon alone, a span for all but the ribbon', async () => {
  const { workspace, worker } = await openWorkspace();
  await worker.answerAll();
  await worker.grow(60_000);
  await worker.answerAll();
  workspace.setWindow({ fromMs: 10_000, toMs: 20_000 });
  await settle();
  expect(worker.asked).toMatchObject([
    { call: 'measure', ask: { measure: 'ribbon', ask: { window: { fromMs: 10_000, toMs: 20_000 } } } },
  ]);
  await worker.answerAll();
  workspace.setSpan({ fromMs: 1, toMs: 2 });
  expect((await worker.answerAll()).map(nameOf)).toEqual(['growth', 'overview']);
});

test('what is watched from an instant on goes on to the head, and stands in the address', async () => {
  const { workspace, worker } = await openWorkspace();
  await worker.answerAll();
  await worker.grow(60_000);
  await worker.answerAll();
  workspace.watchSince(20_000);
  await settle();
  expect(workspace.span).toEqual({ fromMs: 20_000, toMs: 60_000 });
  expect(workspace.addressOf('growth').get('since')).toBe('20000');
  await worker.answerAll();
  await worker.grow(65_000);
  expect(workspace.span).toEqual({ fromMs: 20_000, toMs: 65_000 });
  expect(await worker.answerAll()).toContainEqual(
    expect.objectContaining({
      ask: expect.objectContaining({
        sides: [expect.objectContaining({ extent: { kind: 'span', fromMs: 20_000, toMs: 65_000 } })],
      }),
    }),
  );
  workspace.takeAddress('growth', new Map([['span', '1000~2000']]));
  expect([workspace.span, workspace.isOpen]).toEqual([{ fromMs: 1000, toMs: 2000 }, false]);
  workspace.takeAddress('growth', new Map([['since', '3000']]));
  expect([workspace.span, workspace.isOpen]).toEqual([{ fromMs: 3000, toMs: 65_000 }, true]);
});

test('a window stays inside the recording and is never too narrow', async () => {
  const { workspace, worker } = await openWorkspace();
  await worker.answerAll();
  await worker.grow(60_000);
  workspace.setWindow({ fromMs: -5000, toMs: 5000 });
  expect(workspace.window).toEqual({ fromMs: 0, toMs: 10_000 });
  workspace.setWindow({ fromMs: 58_000, toMs: 68_000 });
  expect(workspace.window).toEqual({ fromMs: 50_000, toMs: 60_000 });
  workspace.setWindow({ fromMs: 100, toMs: 101 });
  expect(workspace.window!.toMs - workspace.window!.fromMs).toBe(20);
  expect(workspace.follows).toBe(false);
  workspace.setWindow(null);
  expect([workspace.window, workspace.follows]).toEqual([null, true]);
});

test('where growth took long, the next span is answered in two, and a newer one drops the rest', async () => {
  const { workspace, worker } = await openWorkspace();
  const { useGrowth } = await import('../../src/questions/growth/growth-state.ts');
  const growth = useGrowth();
  await worker.answerAll();
  await worker.grow(60_000);
  // The first answer is late: what was asked before it is answered first.
  while (!worker.calls().includes('growth')) await worker.answerOne();
  await new Promise((resolve) => setTimeout(resolve, 120));
  await worker.answerAll();
  expect(growth.waits).toBe(false);
  workspace.setSpan({ fromMs: 1000, toMs: 2000 });
  await settle();
  expect(await worker.answerOne()).toMatchObject({ ask: { measure: 'growth', ask: { brief: true } } });
  expect(growth.waits).toBe(true);
  // Another span meanwhile: what stands beside the rows of the first one is not asked for any more.
  workspace.setSpan({ fromMs: 3000, toMs: 4000 });
  const rest = await worker.answerAll();
  const asked = rest.map((request) => (request.call === 'measure' ? [request.ask.measure, request.ask.ask] : []));
  expect(asked.map(([name]) => name)).toEqual(['overview', 'growth', 'overview', 'growth']);
  expect([asked[1], asked[3]]).toMatchObject([
    ['growth', { brief: true }],
    ['growth', { find: '' }],
  ]);
  expect(growth.waits).toBe(false);
});

test('a span that is an instant is the least there is', async () => {
  const { workspace, worker } = await openWorkspace();
  await worker.answerAll();
  await worker.grow(60_000);
  workspace.setSpan({ fromMs: 60_000, toMs: 60_000 });
  expect(workspace.span).toEqual({ fromMs: 59_999.5, toMs: 60_000 });
  workspace.setSpan(null);
  expect(workspace.span).toBeNull();
});

test('a page and a worker of different versions say so', async () => {
  const { workspace, worker } = await openWorkspace();
  worker.onmessage?.({ data: { kind: 'progress', version: 1, progress: {} } });
  await settle();
  expect(workspace.failure).toMatch(/different versions: reload the page/);
});

test('answers to a recording that was closed are dropped', async () => {
  const { workspace, worker } = await openWorkspace();
  await worker.answerAll();
  await worker.grow(1000);
  workspace.close();
  await worker.answerAll();
  expect([workspace.overview, workspace.ribbon]).toEqual([null, null]);
  expect(worker.ended).toBe(true);
});

test('charging otherwise drops the site that was selected under the old charge', async () => {
  const { workspace, worker } = await openWorkspace();
  await worker.answerAll();
  await worker.grow(1000);
  await worker.answerAll();
  workspace.select({ kind: 'key', charge: 'ownFrame', key: 'subscribe (alerts.js:14:1)' });
  await settle();
  expect(worker.calls()).toEqual(['key']);
  await worker.answerAll();
  workspace.chargeTo('site');
  expect(workspace.selection).toBeNull();
});

test('a failure of the worker is told', async () => {
  const { workspace, worker } = await openWorkspace();
  const [open] = worker.asked;
  worker.onmessage?.({
    data: {
      kind: 'failure',
      version: PROTOCOL_VERSION,
      id: open!.id,
      message: 'this recording is not in this browser',
    },
  });
  await settle();
  expect(workspace.failure).toBe('this recording is not in this browser');
});

test('answers that are long in coming are said to be awaited', async () => {
  const { workspace, worker } = await openWorkspace();
  await worker.answerAll();
  await worker.grow(60_000);
  expect(workspace.isBusy).toBe(false);
  await new Promise((resolve) => setTimeout(resolve, 600));
  expect(workspace.isBusy).toBe(true);
  await worker.answerAll();
  expect(workspace.isBusy).toBe(false);
});

test('an answer that fails is told, and leaves what was shown', async () => {
  const { workspace, worker } = await openWorkspace();
  await worker.answerAll();
  await worker.grow(60_000);
  await worker.answerAll();
  expect(workspace.overview).not.toBeNull();
  workspace.setSpan({ fromMs: 0, toMs: 1000 });
  await worker.failAll('no room for the answer');
  expect([workspace.failure, workspace.overview?.program]).toEqual(['no room for the answer', 'tidewatch']);
  void workspace.open('live-run-1');
  await settle();
  expect([workspace.failure, FakeWorker.last === worker, worker.calls()]).toEqual(['', false, ['close']]);
});
