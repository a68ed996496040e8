// What a page asks the planner of deliveries.
import type { AnyDocument, BundleKind, PreflightFacts, PreflightFinding } from '@pebble/core';

/** A file as the list of a delivery shows it. */
export interface DeliveryRow {
  path: string;
  kind: BundleKind;
  /** Id of its target; null for what is the same in all. */
  target: string | null;
  /** Names of what it is made of. */
  of: string[];
  /** How it is kept, in a few words. */
  kept: string;
  about: number;
}
export interface DeliveryView {
  rows: DeliveryRow[];
  findings: PreflightFinding[];
  /** Assets that it holds, by id. */
  assets: { id: string; name: string }[];
}
export interface DeliverRequests {
  [kind: string]: { args: unknown; result: unknown };
  plan: { args: { documents: Record<string, AnyDocument>; targets: string[]; skip: string[]; seen: PreflightFacts['seen'] }; result: DeliveryView };
}
