import type { BlendRole, Role } from '../surface';

export type Join = 'and' | 'or' | 'butNot' | 'atMost' | 'atLeast';
export type Component = 'r' | 'g' | 'b' | 'a';
export const NOISE_KINDS = ['fractal', 'value', 'gradient', 'cellular'] as const;
export type NoiseKind = (typeof NOISE_KINDS)[number];

/** The first or the second set of texture coordinates that a mesh came with. */
export type UvSet = 1 | 2;

/** What a cue looks at. Its `centre` and `width` are in the unit that `CUES` states for the kind. */
export type CueInput =
  /** The coverage itself. */
  | { kind: 'constant'; value: number }
  | { kind: 'vertexColour'; channel: Component }
  /** A channel of a map of a surface, laid `repeats` times over the extent, or over a set of the mesh's own coordinates. */
  | { kind: 'mask'; surface: string; role: Role; channel: 0 | 1 | 2 | 3; repeats: number; set?: UvSet }
  /** A mask painted over the extent: a grey PNG; null while nothing is painted. */
  | { kind: 'painted'; picture: string | null }
  /** Metres above sea level, or above the origin of the object. */
  | { kind: 'altitude'; from: 'world' | 'object' }
  /** Degrees from level. */
  | { kind: 'slope' }
  /** Degrees between the ground's normal and a direction: `bearing` clockwise from north (−Z), `rise` above the horizon. */
  | { kind: 'direction'; bearing: number; rise: number }
  /** Mean curvature of the mesh in 1/m: positive on edges, and its negative in hollows. */
  | { kind: 'convexity' }
  | { kind: 'concavity' }
  /** How much of the sky is open over the mesh: 1 all of it. */
  | { kind: 'occlusion' }
  /** Metres by which what lies below is lower than its middle. */
  | { kind: 'low' }
  /** Metres above the lowest place of the specimen. */
  | { kind: 'ground' }
  | { kind: 'noise'; noise: NoiseKind; sizeM: number; octaves: number; seed: number }
  /** How near the middle of a stripe or grid line: 1 there, 0 half way to the next. */
  | { kind: 'stripes'; sizeM: number; bearing: number }
  | { kind: 'grid'; sizeM: number }
  /** Distance in sRGB values (0–√3) of an ID map from a colour, `#rrggbb`. */
  | { kind: 'id'; surface: string; colour: string; set?: UvSet }
  | { kind: 'part'; part: string };
export type CueKind = CueInput['kind'];

/** One reason inside a coverage. */
export type Cue = {
  order: number;
  join: Join;
  amount: number;
  inverted: boolean;
  shape: 'smooth' | 'straight';
  centre: number;
  width: number;
} & CueInput;
export type Coverage = Record<string, Cue>;

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

export interface Layer {
  order: number;
  name: string;
  /** Id of a surface, or of another blend; empty for constant values and water. */
  surface: string;
  constant: ConstantSurface | null;
  water: Water | null;
  on: boolean;
  solo: boolean;
  strength: number;
  /** Id of a named coverage of the blend, which stands in for the layer's own. */
  shared: string | null;
  coverage: Coverage;
  group: string | null;
  mode: ColourMode;
  /** Roles that it leaves as they are below. */
  untouched: Partial<Record<BlendRole, true>>;
  look: LayerLook;
  seam: Seam;
}

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

export const SPECIMENS = ['patch', 'sphere', 'cube', 'slab', 'marker-stone', 'copper-still', 'ridge-tile', 'shed-wall', 'path-slab'] as const;
export type SpecimenName = (typeof SPECIMENS)[number];
export const isSpecimenName = (name: string): name is SpecimenName => (SPECIMENS as readonly string[]).includes(name);

export const MAX_LAYERS = 16;

export interface BlendDocument {
  kind: 'blend';
  version: 2;
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

/** The usual values of each kind of cue beside those that all have: centre, width and whether it is usually inverted. */
const USUAL: { [K in CueKind]: { input: Extract<CueInput, { kind: K }>; centre: number; width: number; inverted?: true } } = {
  constant: { input: { kind: 'constant', value: 0.5 }, centre: 0.5, width: 0.5 },
  vertexColour: { input: { kind: 'vertexColour', channel: 'r' }, centre: 0.5, width: 0.5 },
  mask: { input: { kind: 'mask', surface: '', role: 'mask', channel: 0, repeats: 1 }, centre: 0.5, width: 0.3 },
  painted: { input: { kind: 'painted', picture: null }, centre: 0.5, width: 1 },
  altitude: { input: { kind: 'altitude', from: 'object' }, centre: 0.5, width: 0.3 },
  slope: { input: { kind: 'slope' }, centre: 35, width: 16, inverted: true },
  direction: { input: { kind: 'direction', bearing: 0, rise: 0 }, centre: 60, width: 40, inverted: true },
  convexity: { input: { kind: 'convexity' }, centre: 15, width: 20 },
  concavity: { input: { kind: 'concavity' }, centre: 15, width: 20 },
  occlusion: { input: { kind: 'occlusion' }, centre: 0.6, width: 0.4, inverted: true },
  low: { input: { kind: 'low' }, centre: 0.004, width: 0.008 },
  ground: { input: { kind: 'ground' }, centre: 0.3, width: 0.3, inverted: true },
  noise: { input: { kind: 'noise', noise: 'fractal', sizeM: 0.6, octaves: 4, seed: 1 }, centre: 0.5, width: 0.2 },
  stripes: { input: { kind: 'stripes', sizeM: 0.3, bearing: 0 }, centre: 0.5, width: 0.2 },
  grid: { input: { kind: 'grid', sizeM: 0.3 }, centre: 0.85, width: 0.1 },
  id: { input: { kind: 'id', surface: '', colour: '#ff0000' }, centre: 0.1, width: 0.04, inverted: true },
  part: { input: { kind: 'part', part: 'body' }, centre: 0.5, width: 0 },
};
export const CUE_KINDS = Object.keys(USUAL) as CueKind[];

export type CueOf<K extends CueKind> = Extract<Cue, { kind: K }>;

/** A cue with the usual values of its kind. */
export function makeCue<K extends CueKind>(kind: K, over: Partial<Omit<CueOf<K>, 'kind'>> = {}): Cue {
  const { input, centre, width, inverted = false } = USUAL[kind];
  return { order: 1, join: 'and', amount: 1, inverted, shape: 'smooth', centre, width, ...input, ...over } as Cue;
}

export function makeLayer(surface: string, name: string, order: number, over: Partial<Layer> = {}): Layer {
  return {
    order,
    name,
    surface,
    constant: null,
    water: null,
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
    version: 2,
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
  const order = Math.max(0, ...Object.values(into.layers).map((l) => l.order)) + 1;
  if (group) into.groups[key] = copied(group);
  into.layers[key] = { ...copied(layer), order, solo: false, shared: null, group: group ? key : null, coverage: copied(coverageOf(from, layer)) };
}

/** The coverage that counts for a layer: a named one of the blend where it shares one, else its own. */
export const coverageOf = (blend: BlendDocument, layer: Layer): Coverage =>
  (layer.shared !== null ? blend.coverages[layer.shared]?.coverage : undefined) ?? layer.coverage;
