import type { CardGraph, CardPlaces, GraphContext, Histogram, MasterDocument, Plot, PlotRequest, Price, Role, StagePixels } from '@pebble/core';
import type { StageMaps } from './protocol';

/** A master with all that is known of what it shows. */
export interface MasterAsk {
  document: MasterDocument;
  context: GraphContext;
  /** Pixels of the surfaces that it may look up, by id. */
  maps: Readonly<Record<string, StageMaps>>;
  /** Pixels of masks and IDs, by `pictureKey`. */
  pictures: Readonly<Record<string, { role: Role; stage: StagePixels }>>;
}

/** A step as it is seen on its card. */
export interface StepPicture {
  /** rgba of `THUMB`² pixels. */
  rgba: Uint8ClampedArray<ArrayBuffer>;
  lo: number;
  hi: number;
  /** Share of the numbers beyond 0–1. */
  outside: number;
}
export const THUMB = 44;

export interface MasterLooks {
  pictures: Record<string, StepPicture>;
  prices: Record<string, Price>;
  price: Price;
  samplers: number;
  mistakes: Record<string, { message: string; port?: string; at?: { from: number; to: number } }>;
  notes: { operation: string; message: string }[];
  /** What the inputs of an operation hold, by operation and port. */
  content: Record<string, Record<string, Histogram>>;
}

export type MasterRequests = {
  layout: { args: { graph: CardGraph; before: CardPlaces }; result: CardPlaces };
  looks: { args: MasterAsk & { ports: Record<string, string> }; result: MasterLooks };
  plot: { args: MasterAsk & { plot: PlotRequest }; result: Plot };
  reach: { args: MasterAsk & { operation: string; port: string }; result: number };
  switches: { args: MasterAsk; result: Record<string, { off: Price; on: Price }> };
};
