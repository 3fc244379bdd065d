import type { FastifyInstance } from 'fastify';
import { batchQuerySchema, commandSchema, endSchema, labelSchema, streamParamsSchema } from '../schemas/contracts.ts';
import type { StreamStore } from '../storage/stream-store.ts';

/** Largest batch of lines. */
export const MOST_BATCH_BYTES = 8 * 1024 * 1024;

const STATUS = { 'wrong-offset': 409, 'other-run': 409, 'no-hello': 400, 'too-many': 507 } as const;

/** Streams: listing them, appending lines, commands to the recorder, the end. */
export function streamRoutes(app: FastifyInstance, store: StreamStore): void {
  app.addContentTypeParser(
    ['application/x-ndjson', 'application/octet-stream'],
    { parseAs: 'buffer', bodyLimit: MOST_BATCH_BYTES },
    (_request, body, done) => done(null, body),
  );

  app.get('/api/streams', () => ({ streams: store.list() }));

  app.get('/api/streams/:id', (request, reply) => {
    const state = store.find(streamParamsSchema.parse(request.params).id);
    return state ?? reply.code(404).send({ message: 'there is no such recording here' });
  });

  app.post('/api/streams/:id/lines', async (request, reply) => {
    const { id } = streamParamsSchema.parse(request.params);
    const place = batchQuerySchema.parse(request.query);
    const batch = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);
    const result = await store.append(id, place, batch);
    if (!result.ok) return reply.code(STATUS[result.code]).send(result);
    const {
      check: { lines, badLines, uncheckedLines, firstProblem },
      commands,
      bytes,
    } = result;
    return { bytes, commands, lines, badLines, uncheckedLines, firstProblem };
  });

  app.post('/api/streams/:id/commands', (request, reply) => {
    const { id } = streamParamsSchema.parse(request.params);
    const command = commandSchema.parse(request.body);
    const left = store.command(id, command.do === 'mark' ? { epochMs: Date.now(), ...command } : command);
    return left
      ? { left }
      : reply.code(409).send({ message: 'the program is not connected, so nothing can be asked of it' });
  });

  // A line of HTTP for scripts: the body is the label. To one program, or to all that are connected.
  const textTypes = ['application/x-www-form-urlencoded', 'text/plain'];
  app.addContentTypeParser(textTypes, { parseAs: 'string', bodyLimit: 4096 }, (_request, body, done) =>
    done(null, body),
  );
  app.post('/api/streams/:id/marks', (request, reply) => {
    const { id } = streamParamsSchema.parse(request.params);
    const left = store.command(id, { do: 'mark', label: labelSchema.parse(request.body), epochMs: Date.now() });
    return left
      ? { marked: [id] }
      : reply.code(409).send({ message: 'the program is not connected, so nothing can be asked of it' });
  });
  app.post('/api/marks', (request) => {
    const mark = { do: 'mark', label: labelSchema.parse(request.body), epochMs: Date.now() } as const;
    return {
      marked: store
        .list()
        .map(({ id }) => id)
        .filter((id) => store.command(id, mark)),
    };
  });

  app.post('/api/streams/:id/end', async (request, reply) => {
    const { id } = streamParamsSchema.parse(request.params);
    const known = await store.end(id, endSchema.parse(request.body));
    return known ? { ended: true } : reply.code(404).send({ message: 'there is no such recording here' });
  });
}
