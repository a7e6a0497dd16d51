// Around every request, without a server: who may ask, which ids are ids, and that whatever goes wrong is told in one shape.
import type { Handle, RequestEvent } from '@sveltejs/kit';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { App } from '$lib/server/app';
import { isLoopback, makeDoor, type Door } from '$lib/server/door';
import { DatabaseAway, Refused } from '$lib/server/failures';
import { refused } from '$lib/server/respond';
import { handle, handleError } from './hooks.server';

const holder = globalThis as { isotaxis?: Promise<App> };
let door: Door;
const open = async (host: string, names: readonly string[] = []) => {
  door = await makeDoor(host, isLoopback(host) ? '' : 'steel pans at midnight', names, { verify: () => Promise.resolve(true) });
  holder.isotaxis = Promise.resolve({ door } as App);
};
beforeEach(() => open('127.0.0.1'));
afterEach(() => delete holder.isotaxis);

type Asked = {
  readonly method?: string;
  readonly headers?: Record<string, string>;
  readonly params?: Record<string, string>;
  /** The route that the framework found, null where it found none. */
  readonly route?: string | null;
  readonly cookie?: string;
  /** What the route answers, or throws. */
  readonly answer?: () => Response;
};

/** Asks for a path as the framework would have it handled: a throw is told to `handleError`, and answered with a page. */
async function ask(pathname: string, { method = 'GET', headers = {}, params = {}, route = pathname, cookie, answer }: Asked = {}) {
  const url = new URL(`http://127.0.0.1:4747${pathname}`);
  const event = {
    request: new Request(url, { method, headers: { host: '127.0.0.1:4747', ...headers } }),
    url,
    params,
    route: { id: route },
    locals: {},
    cookies: { get: () => cookie }
  } as unknown as RequestEvent;
  const resolve: Parameters<Handle>[0]['resolve'] = (asked) => {
    try {
      return answer ? answer() : new Response('fine');
    } catch (error) {
      const told = handleError({ error, event: asked, status: 500, message: 'Internal Error' });
      return new Response(JSON.stringify(told), { status: 500 });
    }
  };
  const response = await handle({ event, resolve });
  const text = await response.text();
  const told = text.startsWith('{"error"') ? (JSON.parse(text) as { error: { code: string; message: string } }).error : null;
  return { said: told ? `${response.status} ${told.code}` : String(response.status), message: told?.message ?? text, response };
}
const said = async (...asked: Parameters<typeof ask>) => (await ask(...asked)).said;

describe('who may ask', () => {
  it.each<[string, string, Asked, string]>([
    ['a page of ours', '/api/sessions', { headers: { 'sec-fetch-site': 'same-origin', origin: 'http://127.0.0.1:4747' } }, '200'],
    ['a plain program', '/api/sessions', { method: 'POST' }, '200'],
    ['a typed address', '/api/sessions', { headers: { 'sec-fetch-site': 'none' } }, '200'],
    ['another site, writing', '/api/sessions', { method: 'POST', headers: { 'sec-fetch-site': 'cross-site' } }, '403 elsewhere'],
    ['another site, reading', '/api/sessions', { headers: { 'sec-fetch-site': 'cross-site' } }, '403 elsewhere'],
    ['another port of this machine', '/api/sessions', { headers: { 'sec-fetch-site': 'same-site' } }, '403 elsewhere'],
    ['a stream for another origin', '/api/sessions/s/events', { headers: { origin: 'https://elsewhere.example' } }, '403 elsewhere'],
    ['a link from another site to a page', '/s/s/ledger', { headers: { 'sec-fetch-site': 'cross-site' } }, '200'],
    ['a name that points here', '/s/s/ledger', { headers: { host: 'elsewhere.example' } }, '403 elsewhere']
  ])('%s', async (_, pathname, asked, wanted) => expect(await said(pathname, asked)).toBe(wanted));

  it('beyond this machine who has a login; a player has his token instead', async () => {
    await open('0.0.0.0');
    const { token } = await door.tryPassphrase('steel pans at midnight', '10.0.0.1');
    expect(await said('/api/sessions')).toBe('401 passphrase');
    expect(await said('/api/sessions', { cookie: token })).toBe('200');
    const page = await ask('/s/s/ledger');
    expect([page.said, page.response.headers.get('location')]).toEqual(['303', '/enter']);
    for (const free of ['/enter', '/cue/a-token-of-some-length', '/api/cue/a-token-of-some-length/events'])
      expect(await said(free)).toBe('200');
    for (const shut of ['/api/cue/short', '/cue/a-token-of-some-length/more', '/api/cues']) expect(await said(shut)).not.toBe('200');
    door.end(token, false);
    expect(await said('/api/sessions', { cookie: token })).toBe('401 passphrase');
  });
});

describe('ids', () => {
  it.each(['..', '.', '../x', 'a/b', 'a\u0000', 'a b', '', 'x'.repeat(81), 'ä', '%2e'])('%j is none', async (id) => {
    for (const name of ['id', 'session', 'token', 'sha'])
      expect(await said('/api/prints/x', { params: { [name]: id } })).toBe('404 not-found');
  });
  it('are letters, digits and a few signs; templates are called by their names', async () => {
    for (const id of ['ferry-shed', 'a:1', 'a.b', crypto.randomUUID(), 'f'.repeat(64)])
      expect(await said('/api/prints/x', { params: { id } })).toBe('200');
    expect(await said('/api/templates/x', { params: { name: 'Evening band, with choir' } })).toBe('200');
  });
});

describe('what goes wrong', () => {
  const failing = (error: Error) => ({
    answer: () => {
      throw error;
    }
  });
  it('is JSON with a code, whoever said it', async () => {
    expect(await said('/api/nothing', { route: null })).toBe('404 not-found');
    expect(await said('/api/sessions', { method: 'PATCH', answer: () => new Response('PATCH method not allowed', { status: 405 }) })).toBe(
      '405 no-method'
    );
    expect(await said('/api/x', { answer: () => refused({ code: 'loop', message: 'This would feed back.' }) })).toBe('422 loop');
    // A page that is not there is a page.
    expect(await said('/nothing', { route: null, answer: () => new Response('<html>', { status: 404 }) })).toBe('404');
  });
  it.each<[string, Error, string]>([
    ['a fault of ours', new Error('undefined is not a function'), '500 server'],
    ['a full disk, as Node tells it', Object.assign(new Error('write'), { code: 'ENOSPC' }), '507 disk-full'],
    ['a full disk, as the database tells it', Object.assign(new Error('could not extend file'), { code: '53100' }), '507 disk-full'],
    ['a database that is away', new DatabaseAway('The database does not answer.'), '503 unavailable'],
    ['a body that is too long', new Refused({ code: 'too-large', message: 'Longer than 4 MB.' }), '413 too-large']
  ])('%s', async (_, error, wanted) => {
    const { said: told, message, response } = await ask('/api/sessions/s/commands', { method: 'POST', ...failing(error) });
    expect(told).toBe(wanted);
    // What broke inside is for the log, not for whoever asked.
    expect(message).not.toContain('undefined');
    expect(message).toMatch(/\.$/);
    expect(response.headers.get('content-security-policy')).toBe("frame-ancestors 'none'");
    expect(response.headers.get('connection')).toBe(wanted.startsWith('413') ? 'close' : null);
  });
  it('at the form for the passphrase is told too, and a page that breaks stays a page', async () => {
    expect(await said('/enter', { method: 'POST', ...failing(new Refused({ code: 'too-large', message: 'Longer than 5 kB.' })) })).toBe(
      '413 too-large'
    );
    expect(await said('/s/s/ledger', failing(new Error('broken')))).toBe('500');
  });
});

it('every answer is isolated, and stands in no frame', async () => {
  const { response } = await ask('/s/s/ledger');
  const wanted = { 'cross-origin-embedder-policy': 'require-corp', 'cross-origin-opener-policy': 'same-origin', 'x-frame-options': 'DENY' };
  for (const [name, value] of Object.entries(wanted)) expect(response.headers.get(name)).toBe(value);
});
