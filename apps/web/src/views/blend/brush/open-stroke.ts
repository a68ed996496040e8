/** How often a stroke under way is kept. */
export const KEEP_MS = 250;

/** A stroke that is kept but not yet a step, should the page be left in the middle of it. */
export class OpenStroke<T extends { blend: string }> {
  /** @param name under which it waits in this window */
  constructor(private readonly name: string) {}

  remember(stroke: T): void {
    sessionStorage.setItem(this.name, JSON.stringify(stroke));
  }
  forget(): void {
    sessionStorage.removeItem(this.name);
  }
  /** The one of a blend that waits, which does so no longer; null when there is none. */
  take(blend: string): T | null {
    const kept = JSON.parse(sessionStorage.getItem(this.name) ?? 'null') as T | null;
    if (kept?.blend !== blend) return null;
    this.forget();
    return kept;
  }
}
