import type { Coverage } from '../coverage';
import { nextOrder } from '../order';
import type { MaterialRole } from '../surface';
import type { DrawnAs } from './master';

export interface Seam {
  /** 0 hard … 1 plain mix. */
  soft: number;
  liftM: number;
  /** 0 keeps its own level … 1 drapes over what is below. */
  follow: number;
  /** 0.01–0.99; one half leaves the coverage as it is. */
  bias: number;
  /** Darkening of occlusion in the seam, 0–1. */
  contact: number;
  broken: { byM: number; atM: number; octaves: number; seed: number };
  /** Only relief larger than this decides, in metres; 0 lets all of it. */
  detailM: number;
  /** How much the step from one layer to the other bends the normal, 0–1. */
  normal: number;
}

export const COLOUR_MODES = ['mix', 'multiply', 'screen', 'overlay'] as const;
export type ColourMode = (typeof COLOUR_MODES)[number];

/** How a layer's own maps are changed before they meet what lies below. */
export interface LayerLook {
  /** Multiplies the base colour; white leaves it. */
  tint: string;
  /** Base colour that becomes 0 and 1, in linear light; `mid` becomes one half of the way. */
  low: number;
  high: number;
  mid: number;
  /** Added to roughness. */
  roughness: number;
  /** Steepness of the normal: 1 as it is. */
  normal: number;
  /** Times its true size; degrees; shares of its own size. All snap so that the blend still tiles. */
  scale: number;
  turn: number;
  u: number;
  v: number;
}

/** A layer without maps. */
export interface ConstantSurface {
  baseColor: string;
  roughness: number;
  metallic: number;
  /** Its level in metres. */
  heightM: number;
}

/** Standing water instead of maps. */
export interface Water {
  /** Level in metres, where the coverage is 1. */
  levelM: number;
  /** Depth at which what lies below is tinted by the murk colour. */
  clearM: number;
  murk: string;
  /** What deep water scatters back. */
  scatter: string;
  roughness: number;
  /** Slope of its ripples, and their size in metres. */
  ripple: number;
  rippleM: number;
  /** Height above the level to which the ground is wet, and by how much wet ground darkens, 0–1. */
  rimM: number;
  wet: number;
}

/** What a layer shows: a surface or another blend by its id, even values, or standing water. */
export type LayerContent =
  { kind: 'surface'; surface: string } | { kind: 'blend'; blend: string } | ({ kind: 'constant' } & ConstantSurface) | ({ kind: 'water' } & Water);

export interface Layer {
  order: number;
  name: string;
  shows: LayerContent;
  on: boolean;
  solo: boolean;
  strength: number;
  /** Id of a named coverage of the blend, which stands in for the layer's own. */
  shared: string | null;
  coverage: Coverage;
  group: string | null;
  mode: ColourMode;
  /** Roles that it leaves as they are below. */
  untouched: Partial<Record<MaterialRole, true>>;
  look: LayerLook;
  seam: Seam;
  /** Ways in which its surface lies beside the usual one. */
  laying?: LayerLaying;
}

/** How a surface hides that it repeats, or that it is stretched. */
export interface LayerLaying {
  /** So many times larger from afar: mixed in from one distance to another, in metres. */
  far?: { times: number; fromM: number; toM: number };
  /** A second laying, turned by a quarter, takes turns with the first in patches of a size in metres; over the world these never repeat. */
  turns?: { atM: number; seed: number; over?: 'world' };
  /** Cells of a size in metres, each turned by up to some degrees and moved by chance; over the world they never repeat. */
  cells?: { atM: number; turn: number; seed: number; over?: 'world' };
  /** Its colour is lighter and darker by up to a share, in patches of a size in metres. */
  macro?: { by: number; atM: number; seed: number; over?: 'world' };
  /** Steep ground is looked up from its sides. */
  sides?: true;
}
export const DEFAULT_FAR = { times: 6, fromM: 20, toM: 60 } as const;

/** Layers with a coverage in common, which limits that of each. */
export interface LayerGroup {
  name: string;
  on: boolean;
  coverage: Coverage;
}
export interface NamedCoverage {
  name: string;
  coverage: Coverage;
}

/** Vertex colours that were painted on a specimen, in the order of its vertices. */
export interface PaintedVertices {
  /** Vertices that it had when it was painted, made finer as `finer` says: on other ones the colours lie nowhere. */
  vertices: number;
  /** Times that the mesh is made finer; each time its triangles are cut into four. */
  finer: number;
  /** Blobs of tiles by number: rgba bytes of 4,096 vertices each. A tile that is not there is as the specimen came. */
  tiles: Record<string, string>;
}

export const MAX_LAYERS = 16;

export interface BlendDocument {
  kind: 'blend';
  version: 3;
  name: string;
  /** Side of the blend in metres; surfaces repeat a whole number of times over it. */
  extentM: number;
  /** A specimen of our own by its name, or one that was brought in by its id. */
  specimen: string;
  /** Altitude of the specimen's origin above the sea, in metres. */
  standsAtM: number;
  /** Ends of the cut line in texture coordinates. */
  cut: { ax: number; ay: number; bx: number; by: number };
  layers: Record<string, Layer>;
  groups: Record<string, LayerGroup>;
  coverages: Record<string, NamedCoverage>;
  /** How it goes over what is behind it where a layer brings opacity, and the opacity below which a cut-out is not drawn: cut out at one half unless stated. */
  drawn?: { as: DrawnAs; cut: number };
  /** What was painted for this blend, by specimen. */
  paint?: Record<string, PaintedVertices>;
}

export const DEFAULT_SEAM: Seam = {
  soft: 0.12,
  liftM: 0,
  follow: 0,
  bias: 0.5,
  contact: 0.25,
  broken: { byM: 0, atM: 0.3, octaves: 3, seed: 1 },
  detailM: 0,
  normal: 0,
};
export const DEFAULT_LOOK: LayerLook = { tint: '#ffffff', low: 0, high: 1, mid: 0.5, roughness: 0, normal: 1, scale: 1, turn: 0, u: 0, v: 0 };
export const DEFAULT_CONSTANT: ConstantSurface = { baseColor: '#808080', roughness: 0.6, metallic: 0, heightM: 0 };
export const DEFAULT_WATER: Water = {
  levelM: 0,
  clearM: 0.15,
  murk: '#7d7355',
  scatter: '#1d1a12',
  roughness: 0.04,
  ripple: 0.02,
  rippleM: 0.12,
  rimM: 0.012,
  wet: 0.45,
};

/** Id of the surface or blend that a layer shows; null where it shows neither. */
export const shownId = ({ shows }: Pick<Layer, 'shows'>): string | null =>
  shows.kind === 'surface' ? shows.surface : shows.kind === 'blend' ? shows.blend : null;
/** The water that a layer is; null for others. */
export const waterOf = ({ shows }: Pick<Layer, 'shows'>): Water | null => (shows.kind === 'water' ? shows : null);
/** The even values that a layer is; null for others. */
export const constantOf = ({ shows }: Pick<Layer, 'shows'>): ConstantSurface | null => (shows.kind === 'constant' ? shows : null);

/** @param shows an id is that of a surface */
export function makeLayer(shows: string | LayerContent, name: string, order: number, over: Partial<Layer> = {}): Layer {
  return {
    order,
    name,
    shows: typeof shows === 'string' ? { kind: 'surface', surface: shows } : { ...shows },
    on: true,
    solo: false,
    strength: 1,
    shared: null,
    coverage: {},
    group: null,
    mode: 'mix',
    untouched: {},
    look: { ...DEFAULT_LOOK },
    seam: { ...DEFAULT_SEAM, broken: { ...DEFAULT_SEAM.broken } },
    ...over,
  };
}

export function makeBlend(name: string, over: Partial<BlendDocument> = {}): BlendDocument {
  return {
    kind: 'blend',
    version: 3,
    name,
    extentM: 2.4,
    specimen: 'patch',
    standsAtM: 0,
    cut: { ax: 0.06, ay: 0.55, bx: 0.94, by: 0.45 },
    layers: {},
    groups: {},
    coverages: {},
    ...over,
  };
}

/**
 * Copies a layer of a blend into another one, on top, under `key`: with the coverage that counts for it as its own, and
 * with its group, which comes along under the same key. Changes `into`.
 */
export function copyLayerInto(into: BlendDocument, from: BlendDocument, id: string, key: string): void {
  const layer = from.layers[id];
  const copied = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;
  const group = layer.group === null ? undefined : from.groups[layer.group];
  const order = nextOrder(into.layers);
  if (group) into.groups[key] = copied(group);
  into.layers[key] = { ...copied(layer), order, solo: false, shared: null, group: group ? key : null, coverage: copied(coverageOf(from, layer)) };
}

/** The coverage that counts for a layer: a named one of the blend where it shares one, else its own. */
export const coverageOf = (blend: BlendDocument, layer: Layer): Coverage =>
  (layer.shared !== null ? blend.coverages[layer.shared]?.coverage : undefined) ?? layer.coverage;
