import { DestroyRef, inject } from '@angular/core';

/** Shortcuts by physical key; Shift and Ctrl are written before it: `Ctrl+KeyZ`. */
export type Keys = Record<string, { down: () => void; up?: () => void }>;

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** Listens while the calling component lives. Single letters do nothing while text has focus. */
export function useKeys(keys: Keys): void {
  const held = new Set<string>();
  const down = (e: KeyboardEvent) => {
    const name = `${e.ctrlKey || e.metaKey ? 'Ctrl+' : ''}${e.shiftKey ? 'Shift+' : ''}${e.code}`;
    const key = keys[name];
    if (!key || e.repeat || e.altKey || (typing(e.target) && !name.startsWith('Ctrl+')) || (typing(e.target) && name.endsWith('KeyZ'))) return;
    e.preventDefault();
    if (key.up) held.add(e.code);
    key.down();
  };
  const up = (e: { code?: string }) => {
    for (const code of e.code ? [e.code] : [...held]) if (held.delete(code)) keys[code]?.up?.();
  };
  const blur = () => up({});
  addEventListener('keydown', down);
  addEventListener('keyup', up);
  addEventListener('blur', blur);
  inject(DestroyRef).onDestroy(() => {
    removeEventListener('keydown', down);
    removeEventListener('keyup', up);
    removeEventListener('blur', blur);
  });
}
