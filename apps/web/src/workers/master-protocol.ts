import type {
  BlockLook,
  CardGraph,
  CardPlace,
  CardPlaces,
  CodeLine,
  Difference,
  GBuffer,
  GraphContext,
  Histogram,
  MasterDocument,
  Plot,
  PlotRequest,
  Price,
  Role,
  Simplified,
  StagePixels,
} from '@pebble/core';
import type { StageMaps } from './protocol';

/** A master with all that is known of what it shows. */
export interface MasterAsk {
  document: MasterDocument;
  context: GraphContext;
  /** Pixels of the surfaces that it may look up, by id. */
  maps: Readonly<Record<string, StageMaps>>;
  /** Pixels of masks and IDs, by `pictureKey`. */
  pictures: Readonly<Record<string, { role: Role; stage: StagePixels }>>;
  /** Which ground it lies on, as it was told; empty for the extent by itself. */
  ground: string;
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
/** Side of the grid of places at which steps are looked at, and of their pictures. */
export const THUMB = 64;

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
  /** What a grid of `THUMB`² places knows of the mesh, under a key. */
  ground: { args: { key: string; planes: GBuffer }; result: null };
  layout: { args: { graph: CardGraph; before: CardPlaces }; result: { places: CardPlaces; rails: CardPlace[][] } };
  looks: { args: MasterAsk & { ports: Record<string, string> }; result: MasterLooks };
  plot: { args: MasterAsk & { plot: PlotRequest }; result: Plot };
  reach: { args: MasterAsk & { operation: string; port: string }; result: number };
  /** What a step gives after block compression, as a texture of `side` texels a repetition. */
  blocks: { args: MasterAsk & { operation: string; port: string; side: number }; result: BlockLook | null };
  /** The first operation, in the order in which they feed each other, with which the graphics driver takes the program no more. */
  refused: { args: MasterAsk; result: string | null };
  /** What can be left out, and how far what is left is from what was. */
  simplify: { args: MasterAsk; result: Simplified & { random: Difference; seen: Difference | null } };
  /** What the shader works out, line by line, those of an operation being told apart. */
  code: { args: MasterAsk & { operation: string | null }; result: CodeLine[] };
  switches: { args: MasterAsk; result: Record<string, { off: Price; on: Price }> };
};
