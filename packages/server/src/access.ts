import { createHash, timingSafeEqual } from 'node:crypto';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';

/** Header in which programs send the token, beside `authorization: Bearer`. */
const TOKEN_HEADER = 'x-brisk-heron-token';
const COOKIE_AGE_S = 365 * 86_400;
/** Tells a program that looks for a server whether this is one, and nothing else. */
const OPEN = '/api/health';

/** Who may use the server, and by which names it is called. */
export interface AccessOptions {
  /** What whoever asks must know. */
  readonly token: string;
  /** Names of this machine besides its loopback under which the server may be reached. */
  readonly hosts: readonly string[];
}

/**
 * Lets in who knows the token: by a header, by the cookie that a first visit leaves, or by the address. Other sites'
 * pages in the same browser and other hosts' names are refused before that.
 */
export function guardAccess(app: FastifyInstance, { token, hosts }: AccessOptions): void {
  const wanted = digest(token);
  const names = new Set([
    '127.0.0.1',
    'localhost',
    '[::1]',
    ...hosts.map((host) => (host.includes(':') ? `[${host}]` : host.toLowerCase())),
  ]);
  const knows = (given: string | undefined): boolean => given !== undefined && timingSafeEqual(digest(given), wanted);

  app.addHook('onRequest', async (request, reply) => {
    const host = request.headers.host ?? '';
    const { origin } = request.headers;
    if (!names.has(host.replace(/:\d+$/, '').toLowerCase()) || (origin !== undefined && origin !== `http://${host}`)) {
      return reply.code(403).send({ message: 'this server answers its own page and local programs only' });
    }
    if (request.url === OPEN) return;
    const cookie = cookieName(host);
    if (knows(headerOf(request)) || knows(cookieOf(request, cookie))) return;
    const url = new URL(request.url, 'http://host');
    const given = url.searchParams.get('token') ?? undefined;
    if (!knows(given)) return refuse(request, reply);
    if (request.method !== 'GET' || url.pathname.startsWith('/api/')) return;
    // The page's address keeps no token: what stands in an address is copied.
    url.searchParams.delete('token');
    return reply
      .header('set-cookie', `${cookie}=${token}; Path=/; Max-Age=${COOKIE_AGE_S}; HttpOnly; SameSite=Strict`)
      .redirect(`${url.pathname.replace(/^\/+/, '/')}${url.search}`, 303);
  });
}

/** Headers that hold for every answer. */
export function harden(app: FastifyInstance, policy: string): void {
  app.addHook('onSend', async (_request, reply) => {
    reply.headers({
      'content-security-policy': policy,
      'x-content-type-options': 'nosniff',
      'referrer-policy': 'no-referrer',
      'cross-origin-resource-policy': 'same-origin',
    });
  });
}

function refuse(request: FastifyRequest, reply: FastifyReply): FastifyReply {
  reply.code(401);
  if (request.url.startsWith('/api/'))
    return reply
      .header('www-authenticate', 'Bearer')
      .send({
        message:
          'expected the token of this server\'s data folder: in the header "authorization: Bearer …"; it is in the file "token" there',
      });
  return reply.type('text/html; charset=utf-8').send(DOOR);
}

// One server a port: cookies know no ports.
function cookieName(host: string): string {
  return `brisk-heron-${/:(\d+)$/.exec(host)?.[1] ?? '80'}`;
}

function headerOf(request: FastifyRequest): string | undefined {
  const own = request.headers[TOKEN_HEADER];
  if (typeof own === 'string') return own;
  return /^Bearer +(\S+)$/i.exec(request.headers.authorization ?? '')?.[1];
}

function cookieOf(request: FastifyRequest, name: string): string | undefined {
  for (const pair of (request.headers.cookie ?? '').split(';')) {
    const at = pair.indexOf('=');
    if (pair.slice(0, at).trim() === name) return pair.slice(at + 1).trim();
  }
  return undefined;
}

// Of equal length whatever was given, as a comparison in constant time needs.
function digest(text: string): Buffer {
  return createHash('sha256').update(text).digest();
}

const DOOR = `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>brisk heron</title><meta name="viewport" content="width=device-width">
<style>body { font: 15px/1.5 sans-serif; max-width: 34em; margin: 12vh auto; padding: 0 1em; color-scheme: light dark } input { font: inherit; width: 100%; box-sizing: border-box; margin: .3em 0 .8em } code { overflow-wrap: anywhere }</style></head>
<body><main><h1>Who are you?</h1>
<p>Recordings here are for the user who keeps them. Open the address that the command line printed, which carries a token once, or give the token here. It is in the file <code>token</code> of the data folder (<code>~/.local/share/brisk-heron</code>, or where <code>BRISK_HERON_DATA</code> points).</p>
<form method="get"><label>Token <input name="token" autocomplete="off" required></label><button>Open</button></form></main></body></html>
`;
