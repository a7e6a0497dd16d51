// Reading what a request brings: never more than is bounded, and never waiting for ever for the rest of it.
import * as yup from 'yup';
import { parseJson } from '$core/json';
import type { Refusal } from '$core/result';
import { Refused } from './failures';

export const NOT_JSON: Refusal = { code: 'bad-request', message: 'The request is not a JSON object.' };

/** How long the next piece of a body may take, ms. */
export const PATIENCE_MS = 60_000;
const MOST_JSON = 4_000_000;
/** What is too long is still read so far and forgotten, so that the sender hears why. */
const MOST_READ = 64_000_000;

/** The pieces of a body as they arrive; throws `Refused` where the sender stops in the middle. */
export async function* piecesOf(body: ReadableStream<Uint8Array>, patience = PATIENCE_MS): AsyncGenerator<Uint8Array> {
  const reader = body.getReader();
  try {
    for (;;) {
      let timer: ReturnType<typeof setTimeout> | undefined;
      const late = new Promise<never>((_, reject) => {
        timer = setTimeout(
          () =>
            reject(new Refused({ code: 'too-slow', message: 'Nothing more has come for a minute, and this is not all. Send it again.' })),
          patience
        );
      });
      const { done, value } = await Promise.race([reader.read(), late]).finally(() => clearTimeout(timer));
      if (done) return;
      yield value;
    }
  } finally {
    reader.releaseLock();
  }
}

const size = (bytes: number) => (bytes >= 1_000_000 ? `${bytes / 1_000_000} MB` : `${bytes / 1000} kB`);

/** A body as text of at most `most` bytes; throws `Refused` where it is longer. */
export async function textOf(request: Request, most = MOST_JSON, patience = PATIENCE_MS): Promise<string> {
  if (!request.body) return '';
  const parts: Uint8Array[] = [];
  let length = 0;
  for await (const part of piecesOf(request.body, patience)) {
    length += part.length;
    if (length > MOST_READ) break;
    if (length > most) parts.length = 0;
    else parts.push(part);
  }
  if (length > most) throw new Refused({ code: 'too-large', message: `What was sent is longer than ${size(most)}. Send less at once.` });
  return Buffer.concat(parts).toString('utf8');
}

/** A JSON body of at most 4 MB, or null where it is no JSON object, or nested more deeply than anything of ours. */
export async function bodyOf(request: Request): Promise<Record<string, unknown> | null> {
  const parsed = parseJson(await textOf(request));
  if (!parsed.ok && parsed.error.code === 'bad-arguments')
    throw new Refused({ code: 'bad-request', message: `The request cannot be read: ${parsed.error.message}.` });
  const body = parsed.ok ? parsed.value : null;
  return typeof body === 'object' && body !== null && !Array.isArray(body) ? (body as Record<string, unknown>) : null;
}

/** A JSON body that fits a schema; throws `Refused` where it does not. */
export async function bodyFit<T>(request: Request, schema: yup.Schema<T>, code: Refusal['code'] = 'bad-arguments'): Promise<T> {
  const body = await bodyOf(request);
  if (!body) throw new Refused(NOT_JSON);
  return fit(body, schema, code);
}

/** What a schema makes of a value; throws `Refused` where it does not fit. */
export function fit<T>(value: unknown, schema: yup.Schema<T>, code: Refusal['code'] = 'bad-arguments'): T {
  try {
    return schema.validateSync(value) as T;
  } catch (error) {
    if (error instanceof yup.ValidationError) throw new Refused({ code, message: error.message });
    throw error;
  }
}
