// Typed results: a refusal carries a sentence for a person and data for a program.
import type { Code } from './codes.ts';

export type Refusal = {
  /** Stable name for programs, e.g. `loop`, `not-found`. */
  readonly code: Code;
  /** One sentence: what is wrong and, where possible, what to do. */
  readonly message: string;
  readonly data?: Readonly<Record<string, unknown>>;
};

export type Result<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly error: Refusal };

export const ok = <T>(value: T): Result<T> => ({ ok: true, value });

export const refuse = (code: Code, message: string, data?: Record<string, unknown>): Result<never> => ({
  ok: false,
  error: data ? { code, message, data } : { code, message }
});
