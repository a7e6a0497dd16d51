// Messages between the server and the database's thread.
export type DatabaseRequest =
  | { readonly id: number; readonly kind: 'query'; readonly sql: string; readonly params: unknown[] }
  | { readonly id: number; readonly kind: 'script'; readonly sql: string }
  | { readonly id: number; readonly kind: 'close' };

/** Request 0 is "open". */
export type DatabaseAnswer =
  | { readonly id: number; readonly rows: Record<string, unknown>[] }
  | { readonly id: number; readonly error: string; /** SQLSTATE, where it is the database's. */ readonly code?: string };
