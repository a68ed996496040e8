import { createSHA256 } from 'hash-wasm';

/** SHA-256 as 64 lower-case hex digits. */
export async function sha256(bytes: Uint8Array): Promise<string> {
  return (await hasher()).update(bytes).digest('hex');
}

/** A hash to feed chunk by chunk. */
export async function hasher(): Promise<{ update(chunk: Uint8Array): { digest(kind: 'hex'): string } }> {
  return (await createSHA256()).init();
}
