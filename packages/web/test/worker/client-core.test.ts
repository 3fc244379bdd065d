import { CancelledError, ClientCore } from '../../src/worker/client-core.ts';
import { PROTOCOL_VERSION } from '../../src/worker/protocol.ts';

/** A worker that answers when it is told to. */
class StillWorker {
  onmessage: ((event: { data: unknown }) => void) | null = null;
  onerror: ((event: { message?: string }) => void) | null = null;
  ended = false;
  readonly asked: { id: number }[] = [];
  postMessage(request: { id: number }): void {
    this.asked.push(request);
  }
  terminate(): void {
    this.ended = true;
  }
}

function opened() {
  const worker = new StillWorker();
  const crashes: string[] = [];
  const client = new ClientCore(worker as unknown as Worker, { onCrash: (message) => crashes.push(message) });
  return { worker, crashes, ask: () => client.ask('exportFile', { recordingId: 'tide' }), close: () => client.close() };
}

test('a worker that cannot be started leaves nobody waiting', async () => {
  const { worker, crashes, ask } = opened();
  const asked = ask();
  // A script that does not load is told by an event without words.
  worker.onerror!({});
  await expect(asked).rejects.toThrow('could not be started: reload the page');
  await expect(ask()).rejects.toThrow('could not be started');
  expect(worker.asked).toHaveLength(1);
  expect(crashes).toEqual([expect.stringContaining('could not be started')]);
});

test('an error within a worker is told, and what was asked of it may still be answered', async () => {
  const { worker, crashes, ask } = opened();
  const asked = ask();
  worker.onerror!({ message: 'a timer failed' });
  const value = { blob: new Blob(), name: 'tide.heron' };
  worker.onmessage!({ data: { version: PROTOCOL_VERSION, kind: 'answer', id: worker.asked[0]!.id, value } });
  expect(await asked).toBe(value);
  expect(crashes).toEqual(['a timer failed']);
});

test('what waits for a worker that is ended is cancelled', async () => {
  const { worker, ask, close } = opened();
  const asked = ask();
  close();
  await expect(asked).rejects.toThrow(CancelledError);
  expect(worker.ended).toBe(true);
});
