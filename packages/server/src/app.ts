import fastifyStatic from '@fastify/static';
import websocket from '@fastify/websocket';
import Fastify, { type FastifyInstance } from 'fastify';
import { ZodError } from 'zod';
import { liveRoute } from './routes/live.ts';
import { sampleRoutes } from './routes/samples.ts';
import { MOST_BATCH_BYTES, streamRoutes } from './routes/streams.ts';
import { StreamStore } from './storage/stream-store.ts';

export interface AppOptions {
  /** Directory of the streams. */
  readonly dataDirectory: string;
  /** Built page; null serves the interface only. */
  readonly webDirectory: string | null;
  /** Sample recordings; null for none. */
  readonly samplesDirectory: string | null;
  readonly logLevel?: 'warn' | 'info' | 'silent';
}

const POLICY = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; connect-src 'self' ws: wss:; worker-src 'self' blob:";

/** Builds the server without listening. */
export async function buildApp(options: AppOptions): Promise<FastifyInstance> {
  const app = Fastify({ logger: { level: options.logLevel ?? 'warn' }, bodyLimit: MOST_BATCH_BYTES, forceCloseConnections: true });
  const store = await StreamStore.open(options.dataDirectory);
  refuseOtherSites(app);
  app.setErrorHandler((error, _request, reply) => {
    if (error instanceof ZodError) return reply.code(400).send({ message: error.issues.map((issue) => `${issue.path.join('.')}: ${issue.message}`).join('; ') });
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
  await app.register(fastifyStatic, { root: webDirectory, setHeaders: (reply) => reply.setHeader('content-security-policy', POLICY) });
  // The page's own addresses are all the same document.
  app.setNotFoundHandler((request, reply) => {
    if (request.url.startsWith('/api/')) return reply.code(404).send({ message: 'there is nothing at this address' });
    return reply.sendFile('index.html');
  });
}

// The server trusts whoever reaches it on this machine; a page of another site in the same browser must not.
function refuseOtherSites(app: FastifyInstance): void {
  app.addHook('onRequest', async (request, reply) => {
    const host = request.headers.host ?? '';
    const { origin } = request.headers;
    const local = /^(?:127\.0\.0\.1|localhost|\[::1\])(?::\d+)?$/.test(host);
    if (!local || (origin !== undefined && origin !== `http://${host}`)) {
      return reply.code(403).send({ message: 'this server answers its own page and local programs only' });
    }
  });
}
