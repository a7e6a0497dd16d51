// Around every request: the app is open, the request comes from this machine's own page, and the page is isolated.
import type { Handle, HandleServerError, ServerInit } from '@sveltejs/kit';
import { app, log } from '$lib/server/app';
import { building } from '$app/environment';

export const init: ServerInit = async () => {
  if (!building) await app();
};

const ISOLATION = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
  'X-Content-Type-Options': 'nosniff',
  'Referrer-Policy': 'no-referrer'
};

/** Names under which this server may be asked for: a page elsewhere could have its own name point here. */
const HOSTS = new Set(['127.0.0.1', 'localhost', '[::1]', process.env.HOST ?? '']);

/** A page from elsewhere may not reach this server, nor change anything here. */
function fromElsewhere(request: Request, url: URL): boolean {
  const host = request.headers.get('host') ?? url.host;
  const own = `http://${host}`;
  if (!HOSTS.has(host.replace(/:\d+$/, ''))) return true;
  if (request.method === 'GET' || request.method === 'HEAD') return false;
  const origin = request.headers.get('origin');
  const site = request.headers.get('sec-fetch-site');
  return (origin !== null && origin !== own) || (site !== null && site !== 'same-origin' && site !== 'none');
}

export const handle: Handle = async ({ event, resolve }) => {
  if (fromElsewhere(event.request, event.url)) return new Response('Requests from other sites are refused.', { status: 403 });
  const response = await resolve(event);
  for (const [name, value] of Object.entries(ISOLATION)) response.headers.set(name, value);
  return response;
};

export const handleError: HandleServerError = ({ error, status, message }) => {
  if (status === 404) return { message };
  log.error({ error: error instanceof Error ? (error.stack ?? error.message) : String(error) }, 'request failed');
  return { message: 'Something went wrong here. Nothing was changed. Try again.' };
};
