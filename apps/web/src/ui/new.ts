/** A random UUID (RFC 9562, version 4). Browsers make one themselves only for pages of this machine or over TLS. */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = (bytes[6] & 0x0f) | 0x40;
  bytes[8] = (bytes[8] & 0x3f) | 0x80;
  const hex = Array.from(bytes, (b) => b.toString(16).padStart(2, '0')).join('');
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
}
/** A key for something new in a collection. It begins with a letter: objects list keys of digits alone before all others. */
export const newKey = (): string => `k${newId().slice(0, 8)}`;
export const newSeed = (): number => Math.floor(Math.random() * 0xffffff);
