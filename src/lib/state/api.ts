// Talking to the server: JSON in (or a file) and out, refusals as values, a lost connection as its own kind.
import type { Refusal, Result } from '$core/result';

export const OFFLINE: Refusal = { code: 'offline', message: 'The server does not answer. Trying again.' };

export async function ask<T>(method: string, path: string, body?: unknown): Promise<Result<T>> {
  let response: Response;
  let text: string;
  try {
    response = await fetch(path, {
      method,
      ...(body === undefined
        ? {}
        : body instanceof Blob
          ? { body, headers: { 'Content-Type': 'application/octet-stream' } }
          : { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } })
    });
    // A line that breaks in the middle of the answer is a lost line too.
    text = await response.text();
  } catch (error) {
    if (error instanceof TypeError) return { ok: false, error: OFFLINE };
    throw error;
  }
  if (response.status === 204) return { ok: true, value: undefined as T };
  if (response.ok) return valueIn<T>(text);
  // A proxy between here and the server speaks in pages of its own.
  if ([502, 503, 504].includes(response.status)) return { ok: false, error: { code: 'unavailable', message: refusalIn(text).message } };
  return { ok: false, error: refusalIn(text) };
}

/** A good answer's value; what is no JSON came from something between here and the server, and asking again is right. */
function valueIn<T>(text: string): Result<T> {
  try {
    return { ok: true, value: JSON.parse(text) as T };
  } catch (error) {
    if (error instanceof SyntaxError)
      return { ok: false, error: { code: 'unavailable', message: 'Something between here and the server answered instead of it.' } };
    throw error;
  }
}

/** The refusal in an answer's body, or a plain one where the body holds none. */
export function refusalIn(text: string): Refusal {
  try {
    const body = JSON.parse(text) as { error?: Refusal; message?: string };
    if (body.error) return body.error;
    return { code: 'server', message: body.message ?? 'The server could not do this.' };
  } catch (error) {
    if (error instanceof SyntaxError) return { code: 'server', message: 'The server could not do this.' };
    throw error;
  }
}
