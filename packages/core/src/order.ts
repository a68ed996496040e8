/** The entries of a keyed collection in their order. */
export function inOrder<T extends { order: number }>(collection: Readonly<Record<string, T>>): (T & { id: string })[] {
  return Object.entries(collection)
    .map(([id, item]) => ({ ...item, id }))
    .sort((a, b) => a.order - b.order || (a.id < b.id ? -1 : 1));
}

/** An order number between two neighbours (undefined at either end). */
export const between = (below: number | undefined, above: number | undefined): number =>
  below === undefined ? (above ?? 2) - 1 : above === undefined ? below + 1 : (below + above) / 2;

/** The order number that goes behind everything in a collection. */
export const nextOrder = (collection: Readonly<Record<string, { order: number }>>): number =>
  Math.max(0, ...Object.values(collection).map((e) => e.order)) + 1;
