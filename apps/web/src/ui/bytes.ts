const KB = 1e3;
export const MB = 1e6;

/** Bytes as people read them: decimal, so that a MB is a million of them, as files are listed and budgets are meant. */
export function bytesText(bytes: number): string {
  if (bytes < KB) return `${bytes} B`;
  if (bytes < MB) return `${(bytes / KB).toFixed(0)} kB`;
  return `${(bytes / MB).toFixed(bytes < 10 * MB ? 2 : 1)} MB`;
}
