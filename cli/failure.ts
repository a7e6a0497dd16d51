// What could not be done, in words for the terminal.
import type { Result } from '$core/result';

/** Says what was mended in what was read, apart from the result. */
export const tell = (mended: readonly string[]): void => {
  for (const words of mended) process.stderr.write(`${words}\n`);
};

export class Failure extends Error {}

/** The value, or the refusal's sentence thrown for the terminal. */
export function must<T>(result: Result<T>): T {
  if (!result.ok) throw new Failure(result.error.message);
  return result.value;
}
