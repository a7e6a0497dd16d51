// GET ?format=svg|graphml|dot: the signal flow for people, or as a graph for other programs.
import { dot, graphML } from '$core/formats/flow';
import { flowSvg } from '$core/formats/flowSvg';
import { settingsOf, type Session } from '$core/session/entities';
import { app } from '$lib/server/app';
import { noSession, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

const FORMATS: Readonly<Record<string, { type: string; write: (session: Session) => string }>> = {
  svg: { type: 'image/svg+xml', write: flowSvg },
  graphml: { type: 'application/xml', write: graphML },
  dot: { type: 'text/vnd.graphviz', write: dot }
};

export const GET: RequestHandler = async ({ params, url }) => {
  const wanted = url.searchParams.get('format') ?? 'svg';
  const format = Object.hasOwn(FORMATS, wanted) ? FORMATS[wanted] : null;
  if (!format) return refused({ code: 'bad-request', message: `The formats are ${Object.keys(FORMATS).join(', ')}.` });
  const { sessions } = await app();
  const written = await sessions.read(params.id, ({ session }) => ({ text: format.write(session), title: settingsOf(session).name }));
  if (!written) return noSession();
  const name = written.title.replace(/[^\p{L}\p{N} ._-]+/gu, '_');
  return new Response(written.text, {
    headers: {
      'Content-Type': `${format.type}; charset=utf-8`,
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(`${name} flow.${wanted}`)}`
    }
  });
};
