/** Keeps a habit of somebody's in the browser. One that is full, or may keep nothing, forgets it with the page: nothing depends on it. */
export function keep(key: string, value: string): void {
  try {
    localStorage.setItem(key, value);
  } catch {
    // As said.
  }
}
/** What was kept; null where nothing was, or may not be asked for. */
export function kept(key: string): string | null {
  try {
    return localStorage.getItem(key);
  } catch {
    return null;
  }
}
