import type { DocumentKind } from '@pebble/core';

/** A named version of the whole project. */
export interface KeptState {
  id: string;
  name: string;
  at: string;
  /** How many documents it holds. */
  documents: number;
  /** Version of the document that was asked about; null where it was not there then. */
  version?: number | null;
}

/** How a document differs from what a named version holds of it. `removed` since then, `added` since then, or `changed`. */
export interface StateDifference {
  id: string;
  kind: DocumentKind;
  name: string;
  how: 'changed' | 'added' | 'removed';
  /** Its version then, and its version now; null where it was not there. */
  then: number | null;
  now: number | null;
}

export const STATE_NAME = { type: 'string', minLength: 1, maxLength: 120, pattern: '\\S' } as const;
