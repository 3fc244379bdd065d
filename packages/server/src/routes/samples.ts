import { readdir } from 'node:fs/promises';
import type { FastifyInstance } from 'fastify';

/** Finished sample recordings that the page offers to a newcomer: files of a directory, fetched from /samples/. */
export function sampleRoutes(app: FastifyInstance, directory: string | null): void {
  app.get('/api/samples', async () => {
    if (directory === null) return { samples: [] };
    const names = await readdir(directory).catch(() => []);
    return { samples: names.filter((name) => name.endsWith('.heron') || name.endsWith('.log')).sort() };
  });
}
