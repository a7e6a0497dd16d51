// GET ?from=…[&to=…|&pair=…][&at=FRAME]: every path of a channel to its output, or to a channel or output pair; with `at`, as lanes play
// there. −∞ is "-inf".
import { trace, type Goal } from '$core/routing/trace';
import { app } from '$lib/server/app';
import { noSession, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params, url }) => {
  const [to, pair, at] = ['to', 'pair', 'at'].map((name) => url.searchParams.get(name));
  if (pair !== null && !/^\d{1,2}$/.test(pair)) return refused({ code: 'bad-request', message: 'A pair is a number; 0 is outputs 1–2.' });
  if (at !== null && !/^\d{1,12}$/.test(at))
    return refused({ code: 'bad-request', message: 'A place is a whole number of frames, from 0 up.' });
  const goal: Goal | undefined = to !== null ? { id: to } : pair !== null ? { pair: Number(pair) } : undefined;
  const from = url.searchParams.get('from') ?? '';
  const { sessions } = await app();
  const traced = await sessions.read(params.id, ({ session }) => trace(session, from, goal, { at: at === null ? null : Number(at) }));
  if (!traced) return noSession();
  if (!traced.ok) return refused(traced.error);
  const text = JSON.stringify(traced.value, (_, value: unknown) => (value === -Infinity ? '-inf' : value));
  return new Response(text, { headers: { 'Content-Type': 'application/json' } });
};
