// What could not be done, in words for the terminal.
import type { Result } from '$core/result';

export class Failure extends Error {}

/** The value, or the refusal's sentence thrown for the terminal. */
export function must<T>(result: Result<T>): T {
  if (!result.ok) throw new Failure(result.error.message);
  return result.value;
}
