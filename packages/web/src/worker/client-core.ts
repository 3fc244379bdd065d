import type {
  MeasureAnswer,
  MeasureAsk,
  MeasureName,
  PairMeasureAnswer,
  PairMeasureAsk,
  PairMeasureName,
  SideAsk,
} from '@brisk-heron/core';
import type { Progress } from './progress.ts';
import {
  type CallName,
  type Calls,
  type Changed,
  type Message,
  OTHER_VERSION,
  type PairOfSides,
  PROTOCOL_VERSION,
  type Request,
} from './protocol.ts';

/** Who is told what the worker says without being asked. */
export interface ClientHandlers {
  readonly onProgress?: (progress: Progress) => void;
  readonly onChanged?: (changed: Changed) => void;
  readonly onCrash?: (message: string) => void;
}

const NOT_STARTED = 'the worker that computes could not be started: reload the page, and see whether the server runs';

/** The page's side of a worker's thread: asks, and gets promises. */
export class ClientCore {
  private readonly worker: Worker;
  private handlers: ClientHandlers;
  private readonly waiting = new Map<number, { resolve: (value: never) => void; reject: (error: Error) => void }>();
  private nextId = 1;
  /** The worker could not be started: nothing is answered by it. */
  private notStarted: Error | null = null;

  constructor(worker: Worker, handlers: ClientHandlers = {}) {
    this.handlers = handlers;
    this.worker = worker;
    this.worker.onmessage = (event: MessageEvent<Message>) => this.take(event.data);
    this.worker.onerror = (event) => this.sawError(event.message);
  }

  /** Asks the worker. Rejects with a message for people. */
  ask<K extends CallName>(call: K, ask: Calls[K]['ask']): Promise<Calls[K]['answer']> {
    if (this.notStarted !== null) return Promise.reject(this.notStarted);
    const id = this.nextId++;
    const request = { version: PROTOCOL_VERSION, id, call, ask } as Request;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve: resolve as (value: never) => void, reject });
      this.worker.postMessage(request);
    });
  }

  /** Asks one measure of one side. Rejects with a message for people. */
  measure<M extends MeasureName>(side: SideAsk, measure: M, ask: MeasureAsk<M>): Promise<MeasureAnswer<M>> {
    return this.ask('measure', { sides: [side], measure, ask }) as Promise<MeasureAnswer<M>>;
  }

  /** Asks one measure of two sides, A and B. Rejects with a message for people. */
  pair<M extends PairMeasureName>(
    sides: PairOfSides,
    measure: M,
    ask: PairMeasureAsk<M>,
  ): Promise<PairMeasureAnswer<M>> {
    return this.ask('measure', { sides, measure, ask }) as Promise<PairMeasureAnswer<M>>;
  }

  /** Tells another listener from now on. */
  handOver(handlers: ClientHandlers): this {
    this.handlers = handlers;
    return this;
  }

  /** Ends the worker and whatever it was doing; promises that wait are rejected. */
  close(): void {
    this.worker.terminate();
    this.rejectAll(new CancelledError());
  }

  // Only an error inside a worker that runs has words of its own: what was asked of it may still be answered.
  private sawError(message: string | undefined): void {
    if (message) return this.handlers.onCrash?.(message);
    this.notStarted = new Error(NOT_STARTED);
    this.handlers.onCrash?.(NOT_STARTED);
    this.rejectAll(this.notStarted);
  }

  private rejectAll(error: Error): void {
    for (const { reject } of this.waiting.values()) reject(error);
    this.waiting.clear();
  }

  private take(message: Message): void {
    if (message.version !== PROTOCOL_VERSION) {
      this.handlers.onCrash?.(OTHER_VERSION);
      return;
    }
    switch (message.kind) {
      case 'answer':
        this.settle(message.id)?.resolve(message.value as never);
        break;
      case 'failure':
        this.settle(message.id)?.reject(new Error(message.message));
        break;
      case 'progress':
        this.handlers.onProgress?.(message.progress);
        break;
      case 'changed':
        this.handlers.onChanged?.(message);
        break;
    }
  }

  private settle(id: number) {
    const entry = this.waiting.get(id);
    this.waiting.delete(id);
    return entry;
  }
}

/** The work was ended on purpose. */
export class CancelledError extends Error {
  constructor() {
    super('cancelled');
  }
}
