// Around every request: the app is open, the request comes from this machine's own page, its ids are ids, and the page is isolated.
import type { Handle, HandleServerError, RequestEvent, ResolveOptions, ServerInit } from '@sveltejs/kit';
import { app, log } from '$lib/server/app';
import { COOKIE, type Door } from '$lib/server/door';
import { isPlain } from '$core/text';
import { failureOf } from '$lib/server/failures';
import { isErrorAnswer, refused } from '$lib/server/respond';
import { building } from '$app/environment';

export const init: ServerInit = async () => {
  if (!building) await app();
};

const HEADERS = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
  'X-Content-Type-Options': 'nosniff',
  'X-Frame-Options': 'DENY',
  // Not 'no-referrer': a browser then calls the origin of our own forms 'null', and nobody enters. Other sites are told nothing.
  'Referrer-Policy': 'same-origin'
};

/** A page from elsewhere may not reach the API, by whatever method: streams cost something too. Addresses of pages may be followed. */
function fromElsewhere({ request, url }: RequestEvent, door: Door): boolean {
  const host = request.headers.get('host') ?? url.host;
  if (!door.knows(host)) return true;
  const reading = request.method === 'GET' || request.method === 'HEAD';
  if (reading && !isApi(url.pathname)) return false;
  const origin = request.headers.get('origin');
  const site = request.headers.get('sec-fetch-site');
  return (
    (origin !== null && origin !== `http://${host}` && origin !== `https://${host}`) ||
    (site !== null && site !== 'same-origin' && site !== 'none')
  );
}

const isApi = (pathname: string) => pathname.startsWith('/api/');

/** A player's page has its own key: the token in its address. */
const forPlayers = (pathname: string) => /^\/(api\/)?cue\/[\w-]{20,80}(\/events)?$/.test(pathname);

/** Ids in addresses, whatever they name: nothing else comes near a file name or a query. Templates are called by their names. */
const ID = /^(?!\.+$)[\w:.-]{1,80}$/;
const idsFit = ({ params, route }: RequestEvent) =>
  Object.entries(params).every(
    ([name, value]) => value === undefined || ID.test(value) || (name === 'name' && !!route.id && isPlain(value))
  );

const REFUSALS = {
  elsewhere: { code: 'elsewhere', message: 'Requests from other sites are refused.' },
  passphrase: { code: 'passphrase', message: 'Enter the passphrase first, at /enter.' },
  unknown: { code: 'not-found', message: 'There is nothing at this address.' },
  method: { code: 'no-method', message: 'This address does not take that method.' }
} as const;

/**
 * What a page needs soon is named in its head. The framework would name it in a header of 10 kB, which proxies do not take: nginx answers 502
 * where headers are longer than a page of memory.
 */
function preloading(): ResolveOptions {
  const modules = new Set<string>();
  return {
    preload: ({ type, path }) => {
      if (type === 'js') modules.add(path);
      return false;
    },
    transformPageChunk: ({ html }) =>
      html.replace('</head>', `${[...modules].map((path) => `<link rel="modulepreload" href="${path}" />`).join('')}</head>`)
  };
}

async function answer(event: RequestEvent, resolve: Parameters<Handle>[0]['resolve']): Promise<Response> {
  const { door } = await app();
  const { pathname } = event.url;
  if (fromElsewhere(event, door)) return refused(REFUSALS.elsewhere);
  if (!door.admits(event.cookies.get(COOKIE)) && pathname !== '/enter' && !forPlayers(pathname)) {
    if (isApi(pathname)) return refused(REFUSALS.passphrase);
    return new Response(null, { status: 303, headers: { Location: '/enter' } });
  }
  if (!idsFit(event) || (isApi(pathname) && event.route.id === null)) return refused(REFUSALS.unknown);
  const response = await resolve(event, preloading());
  const { refusal } = event.locals;
  // A body too long for the form at /enter is told like any other.
  if (response.status < 400 || isErrorAnswer(response) || (!isApi(pathname) && (!refusal || refusal.code === 'server'))) return response;
  return refused(refusal ?? (response.status === 405 ? REFUSALS.method : REFUSALS.unknown));
}

export const handle: Handle = async ({ event, resolve }) => {
  const response = await answer(event, resolve);
  for (const [name, value] of Object.entries(HEADERS)) response.headers.set(name, value);
  if (!response.headers.has('Content-Security-Policy')) response.headers.set('Content-Security-Policy', "frame-ancestors 'none'");
  if (event.request.method !== 'HEAD' || !response.body) return response;
  // Told what an answer would be, nobody reads it: a stream of events would stay open for ever.
  await response.body.cancel();
  return new Response(null, { status: response.status, headers: response.headers });
};

export const handleError: HandleServerError = ({ event, error, status, message }) => {
  if (status === 404) return { message };
  const refusal = failureOf(error);
  event.locals.refusal = refusal;
  if (refusal.code === 'server')
    log.error({ error: error instanceof Error ? (error.stack ?? error.message) : String(error) }, 'request failed');
  return { message: refusal.message };
};
