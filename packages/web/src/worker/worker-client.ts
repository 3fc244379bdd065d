import { ClientCore, type ClientHandlers } from './client-core.ts';

export { CancelledError, type ClientHandlers } from './client-core.ts';

/** A client with a worker of its own. */
export class WorkerClient extends ClientCore {
  constructor(handlers: ClientHandlers = {}) {
    super(new Worker(new URL('./recording-worker.ts', import.meta.url), { type: 'module' }), handlers);
  }
}
