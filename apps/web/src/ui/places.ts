import type { DocumentKind } from '@pebble/core';

/** An address within the application. */
export interface Place {
  path: string[];
  query?: Record<string, string>;
}

const ROUTES = {
  surface: (id: string): Place => ({ path: ['/surfaces'], query: { surface: id } }),
  specimen: (id: string): Place => ({ path: ['/surfaces'], query: { specimen: id } }),
  blend: (id: string): Place => ({ path: ['/blend', id] }),
  master: (id: string): Place => ({ path: ['/master', id] }),
  recipe: (id: string): Place => ({ path: ['/pack'], query: { recipe: id } }),
} satisfies Partial<Record<DocumentKind, (id: string) => Place>>;
export type PlacedKind = keyof typeof ROUTES;
/** Kinds that have a view to be opened in. */
export const PLACED_KINDS = Object.keys(ROUTES) as PlacedKind[];

/** Where a document is opened; null for what has no view of its own. */
export const placeOf = (kind: DocumentKind, id: string): Place | null => (kind in ROUTES ? ROUTES[kind as PlacedKind](id) : null);
