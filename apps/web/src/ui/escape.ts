import { Injectable, computed, effect, inject } from '@angular/core';

/** What is open, in the order in which it was opened. Escape closes the last of it, unless it was for a field or a menu. */
@Injectable({ providedIn: 'root' })
export class Escape {
  private readonly open: (() => void)[] = [];

  constructor() {
    document.addEventListener('keydown', (e) => {
      const close = this.open.at(-1);
      if (e.key !== 'Escape' || e.defaultPrevented || !close) return;
      e.preventDefault();
      close();
    });
  }
  /** @returns ends it */
  opened(close: () => void): () => void {
    this.open.push(close);
    return () => void this.open.splice(this.open.lastIndexOf(close), 1);
  }
}

/** Escape closes it while it is open; called where things are injected. What lives no longer than it is open always is. */
export function closedByEscape(close: () => void, open: () => boolean = () => true): void {
  const escape = inject(Escape);
  const is = computed(open);
  effect((ended) => {
    if (is()) ended(escape.opened(close));
  });
}
