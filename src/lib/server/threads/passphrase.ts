// The passphrase's thread: argon2id takes a fifth of a second and 64 MB, which no other request should wait for.
import { argon2Verify } from 'hash-wasm';

export default (asked: { readonly password: string; readonly hash: string }): Promise<boolean> => argon2Verify(asked);
