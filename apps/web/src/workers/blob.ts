/** How long to wait for a server that does not answer. */
const RETRY_MS = 1500;

/** Keeps bytes on the server, cut into pieces; gives their hashes in turn. Tries again while the server does not answer. */
export async function keepPieces(bytes: Uint8Array<ArrayBuffer>, piece: number): Promise<string[]> {
  for (;;) {
    const headers = { 'content-type': 'application/octet-stream' };
    const response = await fetch(`/api/blobs?piece=${piece}`, { method: 'POST', headers, body: bytes }).catch(() => null);
    if (response?.ok) return (await response.json()) as string[];
    if (response && response.status < 500) throw new Error(`The server does not take what was painted (${response.status}). Reload the page`);
    await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
  }
}

/** Bytes that the server keeps, by their hash. */
export async function bytesOf(hash: string): Promise<Uint8Array<ArrayBuffer>> {
  const response = await fetch(`/api/blobs/${hash}`);
  if (!response.ok) throw new Error(`What is shown here could not be fetched (${response.status}). Reload the page`);
  return new Uint8Array(await response.arrayBuffer());
}
