import { shallowRef } from 'vue';
import type { Progress } from '../worker/progress.ts';
import type { Changed } from '../worker/protocol.ts';
import { CancelledError, type ClientHandlers, WorkerClient } from '../worker/worker-client.ts';
import { useLibrary } from './library.ts';

/** What is told of the worker while a recording is open. */
export interface ClientEvents {
  /** Work beside what the page shows: writing files. */
  readonly onWriting: (progress: Progress) => void;
  readonly onChanged: (changed: Changed) => void;
  readonly onCrash: (message: string) => void;
}

function openAsk(id: string): { recordingId: string; streamId: string; server: string } {
  const streamId = id.startsWith('live-') ? id.slice(5) : '';
  return { recordingId: id, streamId, server: location.origin.replace(/^http/, 'ws') };
}

/** The worker of the open recording, and what is still awaited of it. */
export function clientState(events: ClientEvents) {
  const loading = shallowRef<Progress | null>(null);
  const failure = shallowRef('');
  let client: WorkerClient | null = null;
  /** The recording that is open beside, as another side. */
  let beside: { readonly id: string; readonly opening: Promise<void> } | null = null;
  /** Number of the opening that answers are wanted of; others are dropped. */
  let turn = 0;

  /** Opens a recording in a worker of its own, or in the one that has imported it; null when it was closed meanwhile. */
  async function open(id: string) {
    const handlers: ClientHandlers = {
      onProgress: (progress) => {
        if (progress.doneRatio === undefined) loading.value = progress;
        else events.onWriting(progress);
      },
      onChanged: events.onChanged,
      onCrash: events.onCrash,
    };
    loading.value = { doing: 'Opening', doneBytes: 0, totalBytes: NaN };
    const opened = useLibrary().takeImported(id)?.handOver(handlers) ?? new WorkerClient(handlers);
    client = opened;
    beside = null;
    const stored = await opened.ask('open', openAsk(id));
    return client === opened ? stored : null;
  }

  /** Opens another recording in the same worker; one that was open beside before is closed. */
  function openBeside(id: string): Promise<void> {
    if (client === null || beside?.id === id) return beside?.opening ?? Promise.resolve();
    const opened = client;
    if (beside !== null) void opened.ask('close', { recordingId: beside.id }).catch(() => undefined);
    const opening = opened.ask('open', openAsk(id)).then(() => undefined);
    beside = { id, opening };
    opening.catch(() => {
      beside = null;
    });
    return opening;
  }

  function fail(error: unknown): void {
    if (error instanceof CancelledError) return;
    failure.value = error instanceof Error ? error.message : String(error);
    loading.value = null;
  }

  function close(recordingId: string): void {
    const closing = client;
    void closing
      ?.ask('close', { recordingId })
      .catch(() => undefined)
      .finally(() => closing.close());
    client = null;
    beside = null;
    turn++;
    failure.value = '';
    loading.value = null;
  }

  /** True while what is asked now is still wanted. */
  function currently(): () => boolean {
    const mine = turn;
    return () => mine === turn;
  }

  return { loading, failure, open, openBeside, fail, close, currently, at: () => client };
}
