import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { accessToken, buildApp } from '@brisk-heron/server';
import { z } from 'zod';
import { dataDirectory, packageFolder, serverAddress } from '../places.ts';

/** A server, and the word that it lets us in for. */
export interface ServerAccess {
  /** Without a path: `http://127.0.0.1:4517`. */
  readonly address: string;
  readonly token: string;
}

const healthSchema = z.object({ service: z.literal('brisk-heron') });

/** A machine that stands still for seconds has not lost its server. */
const ANSWER_WITHIN_MS = 60_000;

/**
 * The server that is named, else the one of this machine. Its token is in the address, in `$BRISK_HERON_TOKEN`, or that
 * of our own data folder.
 * @throws when the address is none.
 */
export function serverAccess(given: string | undefined): ServerAccess {
  const named = given ?? serverAddress();
  let url: URL;
  try {
    url = new URL(named);
  } catch {
    throw new Error(`expected the address of a server, as http://127.0.0.1:4517, found "${named}"`);
  }
  return {
    address: url.origin,
    token: url.searchParams.get('token') ?? process.env['BRISK_HERON_TOKEN'] ?? ownAccess('').token,
  };
}

/** A server over our own data folder. */
export function ownAccess(address: string): ServerAccess {
  return { address, token: accessToken(dataDirectory()) };
}

/** Asks the server with its token. */
export function askServer({ address, token }: ServerAccess, path: string, init: RequestInit = {}): Promise<Response> {
  return fetch(`${address}${path}`, { ...init, headers: withToken(init.headers, token) });
}

function withToken(headers: RequestInit['headers'], token: string): Headers {
  const all = new Headers(headers);
  all.set('authorization', `Bearer ${token}`);
  return all;
}

/** Address of a page for a browser that has not been here yet. */
export function pageAddress({ address, token }: ServerAccess, path = '/'): string {
  return `${address}${path}?token=${token}`;
}

/**
 * True when our server answers at the address and lets us in, false when nothing listens there.
 * @throws when something else does, it does not let us in, or nothing is answered.
 */
export async function findServer(access: ServerAccess): Promise<boolean> {
  const { address } = access;
  const response = await fetch(`${address}/api/health`, { signal: AbortSignal.timeout(ANSWER_WITHIN_MS) }).catch(
    (error: unknown) => {
      if (error instanceof DOMException && error.name === 'TimeoutError')
        throw new Error(
          `${address} does not answer within ${ANSWER_WITHIN_MS / 1000} s: is it stuck? Name another address with --server`,
        );
      return null;
    },
  );
  if (response === null) return false;
  const health = healthSchema.safeParse(await response.json().catch(() => null));
  if (!health.success) throw new Error(`another program answers at ${address}: name a free address with --server`);
  const { status } = await askServer(access, '/api/samples');
  if (status === 401)
    throw new Error(
      `the server at ${address} keeps another data folder and does not know our token: give its own with --server "${address}/?token=…" or BRISK_HERON_TOKEN, or name a free address`,
    );
  return true;
}

/** What a server of our own is started with. */
export interface ServeOptions {
  readonly samples?: string;
  /** Name or number to listen at, where it is not the address's own. */
  readonly host?: string;
}

/**
 * Starts the server in this process over our data folder. @throws with a message for people when the address is taken
 * or the folder is.
 */
export async function startServer(
  address: string,
  root: string,
  options: ServeOptions = {},
): Promise<{ close(): Promise<void> }> {
  const { hostname, port } = new URL(address);
  const web = join(packageFolder(root, 'web'), 'dist');
  const data = dataDirectory();
  const app = await buildApp({
    dataDirectory: join(data, 'streams'),
    token: accessToken(data),
    hosts: options.host === undefined ? [] : [options.host],
    webDirectory: existsSync(join(web, 'index.html')) ? web : null,
    samplesDirectory: options.samples ?? null,
  });
  try {
    await app.listen({ host: options.host ?? hostname.replace(/^\[|\]$/g, ''), port: Number(port) });
  } catch (error) {
    await app.close();
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'EADDRINUSE')
      throw new Error(`another program listens at ${address}: name a free port`, { cause: error });
    throw error;
  }
  return app;
}
