import type {
  AnyDocument,
  MapRole,
  DocumentKind,
  DocumentOf,
  GeneratedSurface,
  Image,
  Ktx2Kind,
  LightData,
  Material,
  Model,
  Quality,
  RecipeFile,
  SurfaceOrder,
  TextureFile,
} from '@pebble/core';
import type { ImageCodec } from '@pebble/formats';
import type { Ingredients } from './ingredients';

/** Bytes by the SHA-256 of their content. */
export interface BlobStore {
  /** Keeps bytes and gives their hash; the same bytes are kept once. */
  put(bytes: Uint8Array, mediaType: string): Promise<string>;
  /** @throws UseCaseError `missing-blob` */
  get(hash: string): Promise<Uint8Array>;
  /** The same bytes in pieces, at most a few of them in memory. @throws UseCaseError `missing-blob` when the first is asked for */
  stream(hash: string): AsyncIterable<Uint8Array>;
}

/** Documents of a project, as work reads them. */
export interface DocumentStore {
  /** Null when there is none of this kind, or no longer. */
  find<K extends DocumentKind>(kind: K, id: string): Promise<DocumentOf<K> | null>;
  all<K extends DocumentKind>(kind: K): Promise<{ id: string; body: DocumentOf<K> }[]>;
  /** Documents by id, with all that they name, and what those name; the ids that are none are left out. */
  reach(ids: readonly string[]): Promise<Readonly<Record<string, AnyDocument>>>;
}

/** Where work stands. Called often; the receiver thins it out. Throwing from it stops the work. */
export type Report = (done: number, note: string) => void;

/** Threads that share the rows of a picture. */
export interface BandEvaluator {
  /** Evaluates a material over the extent to maps of `size` × `size`. Throwing from `report` stops it. */
  evaluate(material: Material, from: Ingredients, size: number, roles: readonly MapRole[], report: Report): Promise<Partial<Record<MapRole, Image>>>;
  /** Draws a surface. Throwing from `report` stops it. */
  generate(order: SurfaceOrder, report: Report): Promise<GeneratedSurface>;
}

/** Writes a texture as a kind of file. @param levels the largest first @throws FormatError for what the kind does not hold */
export type TextureWriter = (levels: readonly Image[], kind: TextureFile, how: { block?: Ktx2Kind; directions?: boolean }) => Promise<Uint8Array>;

/** How a file is kept. */
export interface FileWay {
  as: TextureFile;
  /** How texels of KTX2 are kept. */
  block: Ktx2Kind;
  mips: boolean;
}
/** A file of a delivery that is to be written. */
export interface FinishWork {
  levels: Image[];
  channels: RecipeFile['channels'];
  way: FileWay;
  /** Whether it is decoded again and compared. */
  measured: boolean;
}
export interface FinishedFile {
  bytes: Uint8Array;
  quality?: Quality;
}
export type Finisher = (work: FinishWork) => Promise<FinishedFile>;

export interface Ports {
  blobs: BlobStore;
  codec: ImageCodec;
  /** Kinds of file beside PNG; without it none are written. */
  write?: TextureWriter;
  /** Threads that write files of deliveries; without them it is done in place. */
  finish?: Finisher;
  /** Light by which thumbnails are drawn. */
  light: () => LightData;
  /** Reads a mesh that is kept; without it blends lie on specimens of our own. */
  model?: (bytes: Uint8Array) => Promise<Model>;
  /** Without them one thread does everything. */
  bands?: BandEvaluator;
}
