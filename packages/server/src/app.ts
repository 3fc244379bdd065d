import fastifyStatic from '@fastify/static';
import websocket from '@fastify/websocket';
import Fastify, { type FastifyInstance } from 'fastify';
import { ZodError } from 'zod';
import { guardAccess, harden } from './access.ts';
import { liveRoute } from './routes/live.ts';
import { sampleRoutes } from './routes/samples.ts';
import { MOST_BATCH_BYTES, streamRoutes } from './routes/streams.ts';
import { isDiskTrouble } from './storage/durable-file.ts';
import { StreamStore } from './storage/stream-store.ts';

/** What the server serves, and out of which folders. */
export interface AppOptions {
  /** Directory of the streams. */
  readonly dataDirectory: string;
  /** What whoever asks must know (`accessToken`). */
  readonly token: string;
  /** Names besides this machine's loopback under which the server may be reached. */
  readonly hosts?: readonly string[];
  /** Built page; null serves the interface only. */
  readonly webDirectory: string | null;
  /** Sample recordings; null for none. */
  readonly samplesDirectory: string | null;
  readonly logLevel?: 'warn' | 'info' | 'silent';
}

const POLICY =
  "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; connect-src 'self' ws: wss:; worker-src 'self' blob:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'; object-src 'none'";
/** A sender that takes longer for one request is cut off. */
const SLOWEST_REQUEST_MS = 30_000;

/**
 * Builds the server without listening. It holds its data directory until it is closed.
 * @throws with a message for people when another server holds that, or it cannot be written to.
 */
export async function buildApp(options: AppOptions): Promise<FastifyInstance> {
  const app = Fastify({
    logger: { level: options.logLevel ?? 'warn' },
    bodyLimit: MOST_BATCH_BYTES,
    forceCloseConnections: true,
    requestTimeout: SLOWEST_REQUEST_MS,
    http: { headersTimeout: SLOWEST_REQUEST_MS, connectionsCheckingInterval: 2000 },
  });
  const store = await StreamStore.open(options.dataDirectory);
  app.addHook('onClose', () => store.close());
  guardAccess(app, { token: options.token, hosts: options.hosts ?? [] });
  harden(app, POLICY);
  app.setErrorHandler((error, _request, reply) => {
    if (error instanceof ZodError)
      return reply
        .code(400)
        .send({ message: error.issues.map((issue) => `${issue.path.join('.')}: ${issue.message}`).join('; ') });
    const trouble = isDiskTrouble(error);
    if (trouble !== null) return reply.code(507).send({ code: 'disk', message: trouble });
    throw error;
  });
  await app.register(websocket, { options: { maxPayload: 1024 } });
  app.get('/api/health', () => ({ service: 'brisk-heron', version: 1 }));
  // The WebSocket plugin sees only routes registered after it is ready.
  await app.register(async (scope) => {
    streamRoutes(scope, store);
    liveRoute(scope, store);
    sampleRoutes(scope, options.samplesDirectory);
  });
  if (options.samplesDirectory !== null) {
    await app.register(fastifyStatic, { root: options.samplesDirectory, prefix: '/samples/', decorateReply: false });
  }
  if (options.webDirectory !== null) await servePage(app, options.webDirectory);
  return app;
}

async function servePage(app: FastifyInstance, webDirectory: string): Promise<void> {
  await app.register(fastifyStatic, { root: webDirectory });
  // The page's own addresses are all the same document.
  app.setNotFoundHandler((request, reply) => {
    if (request.url.startsWith('/api/')) return reply.code(404).send({ message: 'there is nothing at this address' });
    return reply.sendFile('index.html');
  });
}
