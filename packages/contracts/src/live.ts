import type { DocumentKind, Patch } from '@pebble/core';
import type { JobView } from './jobs';

/** What goes to every open window, in order. */
export type LiveEvent =
  | { type: 'document'; id: string; kind: DocumentKind; version: number; opId: string | null; patch: Patch }
  | { type: 'created'; id: string; kind: DocumentKind }
  | { type: 'deleted'; id: string; kind: DocumentKind }
  | { type: 'job'; job: JobView }
  /** Named versions of the project came or went. */
  | { type: 'states' };

/** What a stream of events begins with. */
export interface Hello {
  /** Number of the event that was told last. */
  seq: number;
  /** Which data the server stands on: another after it was started on another folder. */
  data: string;
}
