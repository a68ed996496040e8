import type { AnyDocument } from './kinds';

/** Whether a document names another by its id, wherever: as what a layer or a slot shows, what a recipe packs, what it lies on. */
export function mentions(document: AnyDocument, id: string): boolean {
  const within = (value: unknown): boolean => {
    if (value === id) return true;
    if (typeof value !== 'object' || value === null) return false;
    return Object.hasOwn(value, id) || Object.values(value).some(within);
  };
  return within(document);
}
