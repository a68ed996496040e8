/** Hands a file to the browser. */
export function saveFile(name: string, content: BlobPart, type = 'text/plain'): void {
  const url = URL.createObjectURL(new Blob([content], { type }));
  Object.assign(document.createElement('a'), { href: url, download: name }).click();
  // Not at once: some take the file only after this turn.
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
