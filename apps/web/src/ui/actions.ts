// Every action that has a key: one entry each. Help and search list them, and keys are changed here and nowhere else.
import { DestroyRef, Injectable, computed, inject, signal } from '@angular/core';
import { keep } from './keep';

export interface ActionFacts {
  /** Physical key with Ctrl and Shift before it: `Ctrl+KeyZ`. */
  key: string;
  label: string;
  /** Where it works. */
  place: 'Everywhere' | 'Stage' | 'Brush' | 'Master';
  /** It works as long as the key is held. */
  held?: true;
}

export const ACTIONS = {
  surfaces: { key: 'Digit1', label: 'Go to Surfaces', place: 'Everywhere' },
  blend: { key: 'Digit2', label: 'Go to Blend', place: 'Everywhere' },
  master: { key: 'Digit3', label: 'Go to Master', place: 'Everywhere' },
  pack: { key: 'Digit4', label: 'Go to Pack', place: 'Everywhere' },
  deliver: { key: 'Digit5', label: 'Go to Deliver', place: 'Everywhere' },
  paint: { key: 'Digit6', label: 'Go to Paint', place: 'Everywhere' },
  undo: { key: 'Ctrl+KeyZ', label: 'Undo', place: 'Everywhere' },
  redo: { key: 'Ctrl+Shift+KeyZ', label: 'Redo', place: 'Everywhere' },
  find: { key: 'Ctrl+KeyK', label: 'Search everything', place: 'Everywhere' },
  versions: { key: 'Ctrl+KeyS', label: 'Named versions', place: 'Everywhere' },
  keys: { key: 'Shift+Slash', label: 'All keys', place: 'Everywhere' },
  channel: { key: 'KeyK', label: 'Next channel', place: 'Stage' },
  frame: { key: 'KeyF', label: 'Frame the specimen', place: 'Stage' },
  near: { key: 'Shift+Digit1', label: 'Look from near', place: 'Stage' },
  middle: { key: 'Shift+Digit2', label: 'Look from some way off', place: 'Stage' },
  far: { key: 'Shift+Digit3', label: 'Look at all of it', place: 'Stage' },
  without: { key: 'KeyV', label: 'Without the chosen layer', place: 'Stage', held: true },
  light: { key: 'KeyH', label: 'The pointer turns the light', place: 'Stage', held: true },
  brush: { key: 'KeyB', label: 'Brush on or off', place: 'Brush' },
  erase: { key: 'KeyE', label: 'Erase instead of painting', place: 'Brush', held: true },
  smaller: { key: 'Minus', label: 'Smaller brush', place: 'Brush' },
  larger: { key: 'Equal', label: 'Larger brush', place: 'Brush' },
  result: { key: 'KeyW', label: 'Stage shows the result', place: 'Master' },
  step: { key: 'KeyS', label: 'Stage shows the chosen step', place: 'Master' },
  probe: { key: 'KeyO', label: 'Stage shows the numbers of a place', place: 'Master' },
  before: { key: 'Comma', label: 'Variant before', place: 'Master' },
  next: { key: 'Period', label: 'Next variant', place: 'Master' },
  play: { key: 'KeyY', label: 'Play or pause', place: 'Master' },
  blocks: { key: 'KeyK', label: 'As it is after block compression', place: 'Master' },
} as const satisfies Record<string, ActionFacts>;
export type ActionId = keyof typeof ACTIONS;
export const ACTION_IDS = Object.keys(ACTIONS) as ActionId[];

/** What hands do that no single key can be set for. */
export const GESTURES: readonly { keys: string; does: string }[] = [
  { keys: 'drag · arrows', does: 'change a number; Shift ×10, Alt ÷10; double-click resets' },
  { keys: 'typing', does: 'a number with its unit or a sum: 12cm, 1/3, *0.5, +=2' },
  { keys: 'drag · wheel', does: 'turn and near the specimen; Shift-drag moves it' },
  { keys: 'Tab', does: 'in the graph: add an operation' },
  { keys: 'Enter · Delete', does: 'in the graph: edit, remove what is chosen' },
  { keys: 'B R N G M P T F', does: 'in the graph: bypass, replace, publish, frame, make own, parameter, tidy, fit' },
  { keys: 'Escape', does: 'close what is open, the innermost first' },
];

export interface Handler {
  /** False where it has nothing to do at the moment, so that another action of the same key may. */
  down: () => unknown;
  up?: () => void;
}
export type Handlers = Partial<Record<ActionId, Handler>>;

const STORE = 'pebble-keys';
const NAMES: Record<string, string> = { Slash: '/', Comma: ',', Period: '.', Minus: '-', Equal: '=', Space: 'space', Backquote: '`' };

/** A key as people read it: `Ctrl+Shift+KeyZ` → `Ctrl Shift Z`. */
export const keyText = (key: string): string =>
  key === 'Shift+Slash'
    ? '?'
    : key
        .split('+')
        .map((part) => NAMES[part] ?? part.replace(/^(Key|Digit)/, ''))
        .join(' ');

/** The key of an event, as actions have theirs. */
export const keyOf = (e: KeyboardEvent): string => `${e.ctrlKey || e.metaKey ? 'Ctrl+' : ''}${e.shiftKey ? 'Shift+' : ''}${e.code}`;

const MODIFIERS = /^(Control|Shift|Alt|Meta)/;
const FIXED = new Set(['Escape', 'Tab', 'Enter', 'Space', 'Delete', 'Backspace', 'ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight']);

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

function kept(): Partial<Record<ActionId, string>> {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(STORE) ?? '{}');
    return Object.fromEntries(Object.entries(found ?? {}).filter(([id, key]) => Object.hasOwn(ACTIONS, id) && typeof key === 'string'));
  } catch {
    return {};
  }
}

/** Keys of actions, what can be done at the moment, and the one listener that brings both together. */
@Injectable({ providedIn: 'root' })
export class Actions {
  private readonly own = signal(kept());
  private readonly live = signal<readonly Handlers[]>([]);
  private readonly byKey = computed(() => {
    const map = new Map<string, ActionId[]>();
    for (const id of ACTION_IDS) map.set(this.key(id), [...(map.get(this.key(id)) ?? []), id]);
    return map;
  });
  private readonly held = new Map<string, Handler>();
  /** Something listens for a key by itself, to be set. */
  readonly taking = signal(false);

  constructor() {
    window.addEventListener('keydown', (e) => this.down(e));
    window.addEventListener('keyup', (e) => this.up(e.code));
    window.addEventListener('blur', () => [...this.held.keys()].forEach((code) => this.up(code)));
  }

  key = (id: ActionId): string => this.own()[id] ?? ACTIONS[id].key;
  text = (id: ActionId): string => keyText(this.key(id));
  changed = (id: ActionId): boolean => this.own()[id] !== undefined;
  /** What does it now; undefined where nothing open can. The last that came goes first. */
  handler = (id: ActionId): Handler | undefined => this.live().findLast((h) => h[id])?.[id];

  /** @returns why the key cannot be this action's; null when it is now */
  set(id: ActionId, e: KeyboardEvent): string | null {
    const key = keyOf(e);
    if (MODIFIERS.test(e.code)) return '';
    if (FIXED.has(e.code) || e.altKey) return `${keyText(key)} cannot be set: it works in lists and fields`;
    const meets = (other: ActionId) =>
      ACTIONS[other].place === ACTIONS[id].place ||
      [ACTIONS[other].place, ACTIONS[id].place].includes('Everywhere') ||
      ACTIONS[other].place !== 'Master';
    const other = (this.byKey().get(key) ?? []).find((o) => o !== id && meets(o));
    if (other) return `${keyText(key)} is “${ACTIONS[other].label}” already`;
    this.keep({ ...this.own(), [id]: key });
    return null;
  }
  reset(id: ActionId): void {
    this.keep(Object.fromEntries(Object.entries(this.own()).filter(([other]) => other !== id)));
  }
  private keep(keys: Partial<Record<ActionId, string>>): void {
    this.own.set(keys);
    keep(STORE, JSON.stringify(keys));
  }

  offer(handlers: Handlers): () => void {
    this.live.update((all) => [...all, handlers]);
    return () => this.live.update((all) => all.filter((h) => h !== handlers));
  }

  private down(e: KeyboardEvent): void {
    const key = keyOf(e);
    if (this.taking() || e.repeat || e.altKey || e.defaultPrevented) return;
    // Letters are text where text is typed; so is undoing it.
    if (typing(e.target) && (!key.startsWith('Ctrl+') || key.endsWith('KeyZ'))) return;
    for (const id of (this.byKey().get(key) ?? []).toReversed()) {
      const handler = this.handler(id);
      if (!handler || handler.down() === false) continue;
      if (handler.up) this.held.set(e.code, handler);
      return e.preventDefault();
    }
  }
  private up(code: string): void {
    const handler = this.held.get(code);
    this.held.delete(code);
    handler?.up?.();
  }
}

/** Does these actions while the calling component lives. */
export function useActions(handlers: Handlers): void {
  inject(DestroyRef).onDestroy(inject(Actions).offer(handlers));
}
