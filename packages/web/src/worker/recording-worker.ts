import '../no-generated-code.ts';
import { HeronDb } from '../db/heron-db.ts';
import { type Message, PROTOCOL_VERSION, type Request } from './protocol.ts';
import { WorkerDesk } from './worker-desk.ts';

/** Events, their columns and everything computed from them live here; the page gets answers. */

interface WorkerScope {
  postMessage(message: Message, transfer?: Transferable[]): void;
  onmessage: ((event: MessageEvent<Request>) => void) | null;
}
const scope = self as unknown as WorkerScope;

const desk = new WorkerDesk(new HeronDb(), (message, transfer) =>
  scope.postMessage({ version: PROTOCOL_VERSION, ...message } as Message, transfer),
);
scope.onmessage = (event) => void desk.take(event.data);
