import type { Signal } from '@angular/core';
import { effect, signal, untracked } from '@angular/core';
import { Newest } from './latest';

/** Ends the present task, so that input and frames come between. */
export const breathe = (): Promise<void> => new Promise((resolve) => setTimeout(resolve));

/** A task that the page does in one go is no longer than about this. */
const SLICE_MS = 10;

/** Does something with every item in turn, in slices the page does not feel; stops before the next item once told to. */
export async function inSlices<T>(items: Iterable<T>, work: (item: T) => void, over: () => boolean = () => false): Promise<void> {
  let began = performance.now();
  for (const item of items) {
    if (performance.now() - began > SLICE_MS) {
      await breathe();
      began = performance.now();
    }
    if (over()) return;
    work(item);
  }
}

/**
 * Follows a signal in a task of its own: what hangs on it holds nothing up that hangs on the other. Wants an injection
 * context.
 * @param before done in a task before that, or in several where it gives a promise
 */
export function later<T>(source: Signal<T>, before?: (value: T) => unknown): Signal<T> {
  const following = signal(untracked(source));
  const turns = new Newest();
  effect(() => {
    const value = source();
    const going = turns.begin();
    const steps = before ? breathe().then(() => going() && before(value)) : Promise.resolve();
    void steps.then(breathe).then(() => going() && following.set(value));
  });
  return following;
}
