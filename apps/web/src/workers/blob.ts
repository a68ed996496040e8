/** Bytes that the server keeps, by their hash. */
export async function bytesOf(hash: string): Promise<Uint8Array<ArrayBuffer>> {
  const response = await fetch(`/api/blobs/${hash}`);
  if (!response.ok) throw new Error(`What is shown here could not be fetched (${response.status}). Reload the page`);
  return new Uint8Array(await response.arrayBuffer());
}
