/** Hands a text to the browser as a file. */
export function saveText(name: string, text: string): void {
  const url = URL.createObjectURL(new Blob([text], { type: 'text/plain' }));
  Object.assign(document.createElement('a'), { href: url, download: name }).click();
  // Not at once: some take the file only after this turn.
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
