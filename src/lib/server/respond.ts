// Answers of the API: JSON, and refusals with a sentence and a fitting status.
import { json } from '@sveltejs/kit';
import type { Refusal } from '$core/result';

const STATUS: Record<string, number> = {
  'no-session': 404,
  'not-found': 404,
  closed: 404,
  overtaken: 409,
  busy: 409,
  exists: 409,
  'too-large': 413,
  'disk-full': 507,
  passphrase: 401
};

export const refused = (error: Refusal): Response => json({ error }, { status: STATUS[error.code] ?? 422 });

const MOST_JSON = 4_000_000;
const MOST_PATIENCE = 64_000_000;

/** A body as text, or null where it is longer than JSON here may be: then it is read and forgotten, so that the sender hears why. */
async function textOf(request: Request): Promise<string | null> {
  if (!request.body) return '';
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of request.body as unknown as AsyncIterable<Uint8Array>) {
    size += part.length;
    if (size > MOST_PATIENCE) return null;
    if (size > MOST_JSON) parts.length = 0;
    else parts.push(part);
  }
  if (size > MOST_JSON) return null;
  return Buffer.concat(parts).toString('utf8');
}

/** A JSON body of at most 4 MB, or a refusal. */
export async function bodyOf(request: Request): Promise<Record<string, unknown> | null> {
  const text = await textOf(request);
  if (text === null) return null;
  try {
    const body: unknown = JSON.parse(text);
    return typeof body === 'object' && body !== null && !Array.isArray(body) ? (body as Record<string, unknown>) : null;
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}

export const notJson = (): Response => refused({ code: 'bad-request', message: 'The request is not a JSON object of at most 4 MB.' });
