// Answers of the API: JSON, and refusals with a sentence and a fitting status.
import { json } from '@sveltejs/kit';
import { CODES } from '$core/codes';
import type { Refusal } from '$core/result';
import { NOT_JSON } from './bodies';
import { NO_SESSION } from './sessions';

const answers = new WeakSet<Response>();

export function refused(error: Refusal): Response {
  const response = json({ error }, { status: CODES[error.code] });
  // What was left unread would stand in the way of the next request.
  if (error.code === 'too-slow' || error.code === 'too-large') response.headers.set('Connection', 'close');
  answers.add(response);
  return response;
}

/** Whether an answer was made by `refused`, and is not the framework's own. */
export const isErrorAnswer = (response: Response): boolean => answers.has(response);

export const noSession = (): Response => refused({ code: 'no-session', message: NO_SESSION });

export const notJson = (): Response => refused(NOT_JSON);
