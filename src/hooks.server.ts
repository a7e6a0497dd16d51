// Around every request: the app is open, the request comes from this machine's own page, and the page is isolated.
import type { Handle, HandleServerError, ServerInit } from '@sveltejs/kit';
import { app, log } from '$lib/server/app';
import { COOKIE, type Door } from '$lib/server/door';
import { refused } from '$lib/server/respond';
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

/** A page from elsewhere may not reach this server, nor change anything here. */
function fromElsewhere(request: Request, url: URL, door: Door): boolean {
  const host = request.headers.get('host') ?? url.host;
  if (!door.knows(host)) return true;
  if (request.method === 'GET' || request.method === 'HEAD') return false;
  const origin = request.headers.get('origin');
  const site = request.headers.get('sec-fetch-site');
  return (
    (origin !== null && origin !== `http://${host}` && origin !== `https://${host}`) ||
    (site !== null && site !== 'same-origin' && site !== 'none')
  );
}

/** A player's page has its own key: the token in its address. */
const forPlayers = (pathname: string) => /^\/(api\/)?cue\/[\w-]{20,80}(\/events)?$/.test(pathname);

export const handle: Handle = async ({ event, resolve }) => {
  const { door } = await app();
  const { pathname } = event.url;
  let response: Response;
  if (fromElsewhere(event.request, event.url, door)) response = new Response('Requests from other sites are refused.', { status: 403 });
  else if (door.admits(event.cookies.get(COOKIE)) || pathname === '/enter' || forPlayers(pathname)) response = await resolve(event);
  else if (pathname.startsWith('/api/')) response = refused({ code: 'passphrase', message: 'Enter the passphrase first, at /enter.' });
  else response = new Response(null, { status: 303, headers: { Location: '/enter' } });
  for (const [name, value] of Object.entries(ISOLATION)) response.headers.set(name, value);
  return response;
};

export const handleError: HandleServerError = ({ error, status, message }) => {
  if (status === 404) return { message };
  log.error({ error: error instanceof Error ? (error.stack ?? error.message) : String(error) }, 'request failed');
  return { message: 'Something went wrong here. Nothing was changed. Try again.' };
};
