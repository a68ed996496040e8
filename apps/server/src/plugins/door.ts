import { createHash, createHmac, timingSafeEqual } from 'node:crypto';
import os from 'node:os';
import plugin from 'fastify-plugin';
import type { FastifyRequest } from 'fastify';
import { ServiceError } from '../store/errors';

/** How a server that others can reach is entered. */
export interface Door {
  /** Address that it listens on. */
  host: string;
  token: string;
}

/** Characters of a token, at least: one that is guessed at two tries a second has to last. */
export const MIN_TOKEN = 12;
const COOKIE = 'pebble';
/** A month. */
const MAX_AGE_S = 30 * 86_400;
/** Pause after a wrong guess, before the next one is looked at. */
export const GUESS_MS = 500;

/** The two addresses that nobody else can reach by any name. */
export const isLoopback = (host: string): boolean => host === '127.0.0.1' || host === '::1';

/** A name or address that this server may be called by, as a Host header has it. Addresses cannot be made to point elsewhere, as names can. */
export function isOwnName(header: string, door: Door | null): boolean {
  if (/^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/.test(header)) return true;
  if (!door) return false;
  const name = header.replace(/:\d+$/, '').toLowerCase();
  return (
    /^(\d{1,3}(\.\d{1,3}){3}|\[[0-9a-f:]+\])$/.test(name) ||
    [door.host, os.hostname(), `${os.hostname()}.local`].some((own) => own.toLowerCase() === name)
  );
}

const digest = (text: string): Buffer => createHash('sha256').update(text).digest();
/** What the cookie holds: who has it knows the token, but not the other way round. */
const passOf = (token: string): string => createHmac('sha256', token).update('entered').digest('base64url');
const cookieOf = ({ headers }: FastifyRequest): string => new RegExp(`(?:^|;\\s*)${COOKIE}=([^;]*)`).exec(headers.cookie ?? '')?.[1] ?? '';
const equal = (a: string, b: string): boolean => timingSafeEqual(digest(a), digest(b));

const page = (body: string) =>
  `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Jaunty Pebble</title><style>body{font:16px/1.5 sans-serif;display:grid;place-content:center;min-height:100vh;margin:0;color:#23282b;background:#f6f4ef}form{display:grid;gap:.75rem;width:min(22rem,90vw)}input,button{font:inherit;padding:.5rem .75rem;border:1px solid #b9b4a8;border-radius:.6rem}button{background:#1f6f78;color:#fff;border:0}p{margin:0}</style>${body}</html>`;
/** Never kept; and a form of a page without a referrer would say that it comes from nowhere, which is refused. */
const PAGE_HEADERS = { 'cache-control': 'no-store', 'content-type': 'text/html; charset=utf-8', 'referrer-policy': 'same-origin' };
const FORM = (wrong: boolean) =>
  page(
    `<form method="post" action="/enter"><p><b>Jaunty Pebble</b></p><p>${wrong ? 'That is not the token of this server. Try again.' : 'Whoever started this server has its token.'}</p><input name="token" type="password" aria-label="Token" autocomplete="current-password" autofocus required><button>Enter</button></form>`,
  );

/** Asks for the token once and keeps that it was given in a cookie that no other site can use. */
export function guarded(door: Door) {
  const pass = passOf(door.token);
  const knows = (request: FastifyRequest) => equal(cookieOf(request), pass);
  let guessing: Promise<unknown> = Promise.resolve();
  /** Tells whether it is the token; a wrong guess waits its turn, whoever guesses. */
  const isToken = async (guess: string): Promise<boolean> => {
    if (equal(guess, door.token)) return true;
    guessing = guessing.then(() => new Promise((resolve) => setTimeout(resolve, GUESS_MS)));
    await guessing;
    return false;
  };
  return plugin(
    (app, _, done) => {
      app.addContentTypeParser('application/x-www-form-urlencoded', { parseAs: 'string', bodyLimit: 4096 }, (_request, body, parsed) =>
        parsed(null, Object.fromEntries(new URLSearchParams(body as string))),
      );
      app.post<{ Body: { token?: string } | null }>('/enter', { schema: { hide: true } }, async ({ body }, reply) => {
        if (!(await isToken(body?.token ?? ''))) return reply.status(401).headers(PAGE_HEADERS).send(FORM(true));
        return reply.header('set-cookie', `${COOKIE}=${pass}; Path=/; Max-Age=${MAX_AGE_S}; HttpOnly; SameSite=Strict`).redirect('/', 303);
      });
      app.addHook('onRequest', async (request, reply) => {
        const { url, method, headers } = request;
        if (url === '/enter' || knows(request)) return;
        // Programs bring it with each request; no page of another site can.
        const [, bearer] = /^Bearer (.+)$/.exec(headers.authorization ?? '') ?? [];
        if (bearer !== undefined && (await isToken(bearer))) return;
        if (method !== 'GET' || url.startsWith('/api/') || headers['sec-fetch-mode'] !== 'navigate')
          throw new ServiceError('no-token', 'This server asks for its token. Reload the page and type it; programs find it in PEBBLE_TOKEN');
        // From a link elsewhere the cookie does not come along; from this page it does.
        const again = headers['sec-fetch-site'] === 'cross-site' || headers['sec-fetch-site'] === 'same-site';
        return reply
          .headers(PAGE_HEADERS)
          .status(again ? 200 : 401)
          .send(again ? page('<meta http-equiv="refresh" content="0"><p>One moment …</p>') : FORM(false));
      });
      done();
    },
    { name: 'door' },
  );
}
