// The way in where the server listens beyond this machine: a form for the passphrase, without any script. DELETE ends this login, with
// ?all every one.
import { app } from '$lib/server/app';
import { textOf } from '$lib/server/bodies';
import { COOKIE } from '$lib/server/door';
import type { RequestHandler } from './$types';

const MOST_FORM = 5000;

const page = (message: string, status: number) =>
  new Response(
    `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Isotaxis</title>
<style>body{font:16px/1.5 system-ui,sans-serif;background:#f4efe4;color:#20302f;display:grid;place-items:center;min-height:90vh}
form{display:grid;gap:10px;width:min(320px,90vw)}input,button{font:inherit;padding:7px 10px;border:1px solid #68736f;border-radius:7px}
button{background:#17695a;color:#fff;border:0}p{margin:0;color:#a03c12;min-height:1.5em}</style>
<form method="post"><label for="p">Passphrase of this Isotaxis</label><input id="p" name="passphrase" type="password" autofocus required>
<button>Enter</button><p role="alert">${message}</p></form></html>`,
    {
      status,
      headers: {
        'Content-Type': 'text/html; charset=utf-8',
        'Cache-Control': 'no-store',
        'Content-Security-Policy': "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'"
      }
    }
  );

export const GET: RequestHandler = () => page('', 200);

/** The browser is told to forget its cookie. */
const FORGET = `${COOKIE}=; HttpOnly; SameSite=Strict; Path=/; Max-Age=0`;

export const POST: RequestHandler = async ({ request, getClientAddress }) => {
  const { door } = await app();
  // Without a passphrase everybody on this machine is in.
  if (!door.guarded) return new Response(null, { status: 303, headers: { Location: '/' } });
  const typed = new URLSearchParams(await textOf(request, MOST_FORM)).get('passphrase') ?? '';
  const { entry, token } = await door.tryPassphrase(typed, getClientAddress());
  if (entry === 'wait') return page('Too many tries at once. Wait a minute.', 429);
  if (entry === 'wrong') return page('That is not the passphrase.', 403);
  // Behind a proxy that speaks HTTPS the cookie never leaves by plain HTTP.
  const secure = request.headers.get('origin')?.startsWith('https://') ? '; Secure' : '';
  return new Response(null, {
    status: 303,
    headers: { Location: '/', 'Set-Cookie': `${COOKIE}=${token}; HttpOnly; SameSite=Strict; Path=/${secure}` }
  });
};

export const DELETE: RequestHandler = async ({ cookies, url }) => {
  const { door } = await app();
  door.end(cookies.get(COOKIE), url.searchParams.has('all'));
  return new Response(null, { status: 204, headers: { 'Set-Cookie': FORGET } });
};
