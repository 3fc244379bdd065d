import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { buildApp } from '@brisk-heron/server';
import { z } from 'zod';
import { dataDirectory } from '../places.ts';

const healthSchema = z.object({ service: z.literal('brisk-heron') });

/** A machine that stands still for seconds has not lost its server. */
const ANSWER_WITHIN_MS = 60_000;

/** True when our server answers at the address, false when nothing listens there. @throws when something else does, or nothing is answered. */
export async function findServer(address: string): Promise<boolean> {
  const response = await fetch(`${address}/api/health`, { signal: AbortSignal.timeout(ANSWER_WITHIN_MS) }).catch((error: unknown) => {
    if (error instanceof DOMException && error.name === 'TimeoutError') throw new Error(`${address} does not answer within ${ANSWER_WITHIN_MS / 1000} s: is it stuck? Name another address with --server`);
    return null;
  });
  if (response === null) return false;
  const health = healthSchema.safeParse(await response.json().catch(() => null));
  if (!health.success) throw new Error(`another program answers at ${address}: name a free address with --server`);
  return true;
}

/** Starts the server in this process at an address of this machine. */
export async function startServer(address: string, root: string, options: { samples?: string } = {}): Promise<{ close(): Promise<void> }> {
  const { hostname, port } = new URL(address);
  const web = join(root, 'packages', 'web', 'dist');
  const app = await buildApp({
    dataDirectory: join(dataDirectory(), 'streams'),
    webDirectory: existsSync(join(web, 'index.html')) ? web : null,
    samplesDirectory: options.samples ?? null,
  });
  await app.listen({ host: hostname, port: Number(port) });
  return app;
}
