import type { Ktx2Kind, MapSettings, TargetDocument, TextureFile } from '../cost';
import type { Step } from '../derive';
import type { ColourSpace, Depth } from '../image';
import type { Finding } from '../recognise';
import type { GeneratorName } from '../generate';
import type { Role } from '../surface';
import type { BlendDocument } from './blend';
import type { MasterDocument } from './master';
import type { Stamped } from './stamps';

/** Raw interleaved samples (16-bit little-endian) of a map at a size that is quick to fetch. */
export interface StagePixels {
  blob: string;
  width: number;
  height: number;
  channels: number;
  depth: 8 | 16;
  /** The same once more, small enough to be there at once: what a picture ahead is worked out from. Absent where that is no smaller. */
  coarse?: { blob: string; width: number; height: number };
}

/** One image with a role and settings. `blob` names the bytes of the file by SHA-256. */
export interface MapEntry {
  blob: string;
  fileName: string;
  bytes: number;
  width: number;
  height: number;
  channels: number;
  depth: Depth;
  colourSpace: ColourSpace;
  /** Which way green points in the file; null for other roles. */
  normalDirection: 'y+' | 'y-' | null;
  /** Directions along the axes of the object that it is made for, which no light of ours reads; along tangents where it is not there. */
  space?: 'object';
  stage: StagePixels;
  /** Own settings for all targets, and for single ones by the target's id. What is not there is inherited. */
  settings?: Partial<MapSettings>;
  overrides?: Record<string, Partial<MapSettings>>;
  /** What the pixels were found to be, and to suffer from. */
  findings?: Finding[];
  /** How the picture was made of another; `blob` is then the result. Absent where the file is used as it came. */
  made?: MapRecipe;
}

/** What a made map comes from: a file, or another map of its surface that it follows. */
export type MapSource = { blob: string; fileName: string; normalDirection: 'y+' | 'y-' | null; colourSpace: ColourSpace } | { role: Role };

export interface MapRecipe {
  source: MapSource;
  steps: Record<string, Step>;
  /** What the steps had to say when they last ran. */
  notes: string[];
}

/** Where a surface comes from and what may be done with it; empty fields are not known. */
export interface SurfaceOrigin {
  author: string;
  source: string;
  licence: string;
}

export interface ProjectDocument {
  kind: 'project';
  version: 1;
  name: string;
  /** Green of exported normals. */
  exportNormal: 'y+' | 'y-';
  /** Usual side of exported maps in pixels. */
  exportSize: number;
  target: string;
  /** Findings of the preflight that somebody took responsibility for, by their keys, and why. */
  accepted?: Record<string, string>;
}

export interface SurfaceDocument {
  kind: 'surface';
  version: 1;
  name: string;
  sizeM: number;
  reliefM: number;
  mid: number;
  maps: Partial<Record<Role, MapEntry>>;
  /** Lit pebble, a PNG blob. */
  thumbnail: string | null;
  /** Mean base colour, `#rrggbb`: how the surface is told apart at a glance. */
  tone: string;
  /** How to draw it again; amounts of structures that are not 1. */
  generator: { name: GeneratorName; seed: number; amounts?: Record<string, number> } | null;
  /** What was doubtful when the maps came in, in plain sentences. */
  notes: string[];
  origin?: SurfaceOrigin;
  /** Stamps that its maps hold; absent where none were pressed. */
  stamped?: Stamped;
}

/** What a part of a brought-in mesh is, for lists; its vertices are in the model. */
export interface SpecimenPart {
  order: number;
  name: string;
  slot: string;
  /** Level of detail, 0 the finest. */
  level: number;
  vertices: number;
  triangles: number;
  /** Sets of texture coordinates. */
  sets: number;
  /** Whether it came with vertex colours. */
  coloured: boolean;
}

/** A mesh that was brought in. */
export interface SpecimenDocument {
  kind: 'specimen';
  version: 1;
  name: string;
  /** Blob of binary glTF with all levels, parts and sets; numbers as they came. */
  model: string;
  /** The file as it came. */
  file: { blob: string; fileName: string; bytes: number };
  /** Metres a unit of the file, and which way is up in it. */
  unitM: number;
  up: 'y' | 'z';
  /** The set of texture coordinates that is used. */
  uvSet: number;
  parts: Record<string, SpecimenPart>;
  /** Pairs of parts (`stackingKey`) that may lie on each other in texture space. */
  stacking: Record<string, true>;
  thumbnail: string | null;
  /** What was made up or left out when it came in, in plain sentences. */
  notes: string[];
  origin?: SurfaceOrigin;
  /** What a terrain was made of; absent of other meshes. */
  terrain?: TerrainFacts;
}

/** A terrain's heights as they came (null: the hillside that ships with the product), and what their numbers mean. */
export interface TerrainFacts {
  heights: string | null;
  /** Samples along its sides. */
  width: number;
  height: number;
  acrossM: number;
  rangeM: number;
  footM: number;
  /** Tiles that it is drawn in: metres along a side, and layers that one may draw; as usual unless stated. */
  tiles?: TerrainTiling;
}
export interface TerrainTiling {
  sideM: number;
  layers: number;
}
export const USUAL_TILING: TerrainTiling = { sideM: 32, layers: 4 };

/** A channel of a map that feeds one of a file, and what happens to it on the way: the colour space, the levels, the turning over. */
export interface MapRoute {
  from: 'map';
  role: Role;
  channel: 0 | 1 | 2 | 3;
  invert: boolean;
  /** Stored sRGB to linear light, or linear light to sRGB. */
  space?: 'linear' | 'srgb';
  /** What becomes 0 and 1, and what of what lies between becomes one half. */
  levels?: { low: number; high: number; mid: number };
}
/** What feeds one channel of an output file. */
export type ChannelRoute = MapRoute | { from: 'constant'; value: number };

export const OUTPUT_CHANNELS = ['r', 'g', 'b', 'a'] as const;
export type OutputChannel = (typeof OUTPUT_CHANNELS)[number];

export interface RecipeFile {
  order: number;
  /** The `{file}` token of the name template. */
  label: string;
  depth: 8 | 16;
  /** Finer steps than the file's are spread over neighbours (ordered, the same each time). */
  dither?: boolean;
  channels: Partial<Record<OutputChannel, ChannelRoute>>;
  /** The kind of file; PNG unless stated. */
  as?: TextureFile;
  /** How texels of a KTX2 file are kept: as the target keeps such maps, or as is said here; plain unless stated. */
  block?: Ktx2Kind | 'target';
  /** Whether a KTX2 file holds all smaller levels. */
  mips?: boolean;
  /** Data may go into a file that changes it. */
  lossy?: boolean;
}

/** How words of a name are joined: `terrace_stone`, `terrace-stone`, `TerraceStone`, `TERRACE_STONE`. */
/** What {version} may stand for in names. */
export const VERSION_PATTERN = '^[A-Za-z0-9][A-Za-z0-9._-]{0,23}$';
export const NAME_CASES = ['snake', 'kebab', 'pascal', 'upper'] as const;
export type NameCase = (typeof NAME_CASES)[number];

export interface RecipeDocument {
  kind: 'recipe';
  version: 1;
  name: string;
  /** Tokens in braces, as `NAME_TOKENS` has them. */
  template: string;
  /** How words of a token are joined; by underscores unless stated. */
  case?: NameCase;
  /** Own short codes of roles for {code}. */
  codes?: Partial<Record<Role, string>>;
  /** What {version} stands for; v1 unless stated. */
  edition?: string;
  size: number;
  files: Record<string, RecipeFile>;
  /** Ids of the surfaces and blends that this recipe packs. */
  sources: Record<string, { order: number }>;
}

/** What sits on one slot of an asset. */
export interface AssetSlot {
  order: number;
  /** The slot of the mesh, by its name. */
  slot: string;
  /** Id of the blend or the master on it, or of a surface that was finished for its coordinates; empty while nothing is. */
  blend: string;
  /** The variant of the master; absent for what all of them inherit. */
  variant?: string;
  /** The set of texture coordinates by which it is laid. */
  uvSet: number;
  /** Times its true size. */
  size: number;
  /** Longest side of its delivered texture in pixels; as the project says unless stated. */
  side?: number;
}

/** A specimen with what sits on each of its slots. */
export interface AssetDocument {
  kind: 'asset';
  version: 1;
  name: string;
  /** A specimen of our own by its name, or one that was brought in by its id. */
  specimen: string;
  /** Its model is delivered with all variants of the masters that its slots wear. */
  variants?: boolean;
  slots: Record<string, AssetSlot>;
}

export type AnyDocument =
  ProjectDocument | SurfaceDocument | BlendDocument | RecipeDocument | TargetDocument | SpecimenDocument | AssetDocument | MasterDocument;
export type DocumentKind = AnyDocument['kind'];
export type DocumentOf<K extends DocumentKind> = Extract<AnyDocument, { kind: K }>;

/** Texels a metre of the largest map of a surface. */
export const densityOf = ({ maps, sizeM }: SurfaceDocument): number => Math.max(0, ...Object.values(maps).map((m) => m.width)) / sizeM;

/** How many times finer the finest of some surfaces is than the coarsest, when that is seen where they meet; null up to 2×. */
export function densityGap<T extends { density: number }>(all: readonly T[]): { ratio: number; coarse: T; fine: T } | null {
  const sorted = all.filter((s) => s.density > 0).sort((a, b) => a.density - b.density);
  const [coarse, fine] = [sorted.at(0), sorted.at(-1)];
  return coarse && fine && fine.density > 2 * coarse.density ? { ratio: fine.density / coarse.density, coarse, fine } : null;
}
