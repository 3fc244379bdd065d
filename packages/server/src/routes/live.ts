import { open } from 'node:fs/promises';
import type { WebSocket } from '@fastify/websocket';
import type { FastifyInstance } from 'fastify';
import { offsetQuerySchema, streamParamsSchema } from '../schemas/contracts.ts';
import type { StreamStore } from '../storage/stream-store.ts';

const CHUNK_BYTES = 256 * 1024;
const WAIT_MS = 2000;

/**
 * A stream's lines over WebSocket from a given byte on: binary frames with the bytes as they are stored, text frames
 * `{"bytes","connected","ended"}` with the state after each and at least every two seconds.
 */
export function liveRoute(app: FastifyInstance, store: StreamStore): void {
  app.get('/api/streams/:id/live', { websocket: true }, (socket, request) => {
    const params = streamParamsSchema.safeParse(request.params);
    const query = offsetQuerySchema.safeParse(request.query);
    const silent = params.success ? store.silentEnd(params.data.id) : null;
    if (silent !== null) {
      socket.send(JSON.stringify({ bytes: 0, connected: false, ended: silent }), () => socket.close(1000, 'ended'));
      return;
    }
    if (!params.success || !query.success || store.find(params.data.id) === null) {
      socket.close(4404, 'there is no such recording here');
      return;
    }
    relay(socket, store, params.data.id, query.data.offset).catch((error: unknown) => {
      request.log.warn({ error }, 'relaying a stream failed');
      socket.close(1011, 'reading the recording failed');
    });
  });
}

async function relay(socket: WebSocket, store: StreamStore, id: string, from: number): Promise<void> {
  const handle = await open(store.file(id), 'r');
  const buffer = Buffer.alloc(CHUNK_BYTES);
  let offset = from;
  let toldMs = 0;
  try {
    while (socket.readyState === socket.OPEN) {
      const state = store.find(id);
      if (state === null) return;
      const { bytesRead } = await handle.read(
        buffer,
        0,
        Math.min(CHUNK_BYTES, Math.max(0, state.bytes - offset)),
        offset,
      );
      if (bytesRead > 0) {
        offset += bytesRead;
        await send(socket, Buffer.from(buffer.subarray(0, bytesRead)));
      }
      // Whoever is far behind is told how far, before he has caught up.
      if (offset >= state.bytes || Date.now() - toldMs > WAIT_MS) {
        toldMs = Date.now();
        await send(socket, JSON.stringify({ bytes: state.bytes, connected: state.connected, ended: state.ended }));
      }
      if (offset >= state.bytes) {
        if (state.ended !== null) return socket.close(1000, 'ended');
        await store.waitForGrowth(id, WAIT_MS);
      }
    }
  } finally {
    await handle.close();
  }
}

// Waiting for the frame to leave keeps a slow page from filling the server's memory.
function send(socket: WebSocket, data: Buffer | string): Promise<void> {
  return new Promise((resolve) => socket.send(data, () => resolve()));
}
