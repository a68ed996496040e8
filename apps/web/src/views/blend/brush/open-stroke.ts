// A stroke that is kept piece by piece while it is made: should the page be left in the middle of it, it becomes a step later.

/** How often what is painted is kept. */
export const KEEP_MS = 250;

/** One such stroke of a tab, in its own storage: it outlives a reload, and no other tab takes it. */
export class OpenStroke<T> {
  constructor(private readonly name: string) {}

  remember = (stroke: T): void => sessionStorage.setItem(this.name, JSON.stringify(stroke));
  forget = (): void => sessionStorage.removeItem(this.name);
  /** What was left, if it is of one's own. */
  left(mine: (stroke: T) => boolean): T | null {
    const stroke = JSON.parse(sessionStorage.getItem(this.name) ?? 'null') as T | null;
    if (!stroke || !mine(stroke)) return null;
    this.forget();
    return stroke;
  }
}
