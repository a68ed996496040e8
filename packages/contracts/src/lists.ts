import type { DocumentKind } from '@pebble/core';

/** A document as lists show it. */
export interface ListedDocument {
  id: string;
  kind: DocumentKind;
  version: number;
  name: string;
}

/** Documents that are asked for whole at once, at most. */
export const MAX_WHOLE = 500;
