import { DRAWN_AS, MATERIAL_ROLES, COLOUR_MODES, JOIN_NAMES, MAX_LAYERS, MAX_FINER, MAX_PAINTED, NOISE_KINDS, ROLES, tileCount } from '@pebble/core';
import { HASH, colour, flag, id, keyed, number, object, optional, order, seed, some, text, unit, whole } from './shapes';

const common = {
  order,
  join: { enum: JOIN_NAMES },
  amount: unit,
  inverted: flag,
  shape: { enum: ['smooth', 'straight'] },
  centre: number(-1e5, 1e5),
  width: number(0, 1e5),
} as const;
const sizeM = number(0.001, 10000);
const octaves = whole(1, 8);
const bearing = number(-360, 360);
const name = { type: 'string', maxLength: 64 } as const;

/** One kind of cue. */
const kind = <K extends string, P extends Record<string, unknown>>(named: K, own: P) => object({ ...common, kind: { const: named }, ...own });
const nothing = {} as const;

/** A kind of cue that may look things up by a set of the mesh's own coordinates. */
const kindBySet = <K extends string, P extends Record<string, unknown>>(named: K, own: P) => {
  const always = kind(named, own);
  return { ...always, properties: { ...always.properties, set: { enum: [1, 2] } } } as const;
};

/** A kind of cue that may go over the world instead of the extent. */
const kindOver = <K extends string, P extends Record<string, unknown>>(named: K, own: P) => {
  const always = kind(named, own);
  return { ...always, properties: { ...always.properties, over: { enum: ['world'] } } } as const;
};

/** The kinds are told apart by `kind`, so that an error names what is wrong inside the right one. */
const cue = {
  type: 'object',
  discriminator: { propertyName: 'kind' },
  required: ['kind'],
  oneOf: [
    kind('constant', { value: unit } as const),
    kind('vertexColour', { channel: { enum: ['r', 'g', 'b', 'a'] } } as const),
    kindBySet('mask', { surface: name, role: { enum: ROLES }, channel: { enum: [0, 1, 2, 3] }, repeats: number(0.01, 1000) } as const),
    kindBySet('painted', { picture: optional(HASH) } as const),
    kind('altitude', { from: { enum: ['world', 'object'] } } as const),
    kind('slope', nothing),
    kind('direction', { bearing, rise: number(-90, 90) } as const),
    kind('convexity', nothing),
    kind('concavity', nothing),
    kind('occlusion', nothing),
    kind('low', nothing),
    kind('ground', nothing),
    kindOver('noise', { noise: { enum: NOISE_KINDS }, sizeM, octaves, seed } as const),
    kind('stripes', { sizeM, bearing } as const),
    kind('grid', { sizeM } as const),
    kindBySet('id', { surface: name, colour } as const),
    kind('part', { part: { type: 'string', maxLength: 200 } } as const),
  ],
} as const;
export const COVERAGE_SCHEMA = { ...keyed(cue), maxProperties: 32 } as const;

const metres = number(-100, 100);
const seam = object({
  soft: unit,
  liftM: metres,
  follow: unit,
  bias: number(0.01, 0.99),
  contact: unit,
  broken: object({ byM: number(0, 10), atM: sizeM, octaves, seed } as const),
  detailM: number(0, 1000),
  normal: unit,
} as const);

const over = { enum: ['world'] } as const;
const turns = object({ atM: sizeM, seed } as const);
const cells = object({ atM: sizeM, turn: number(0, 180), seed } as const);
const macro = object({ by: unit, atM: sizeM, seed } as const);
const look = object({
  tint: colour,
  low: number(0, 1),
  high: number(0, 4),
  mid: number(0.01, 0.99),
  roughness: number(-1, 1),
  normal: number(0, 8),
  scale: number(0.01, 100),
  turn: number(-360, 360),
  u: number(-1, 1),
  v: number(-1, 1),
} as const);

const alwaysOfLayer = object({
  order,
  name: text,
  shows: {
    type: 'object',
    discriminator: { propertyName: 'kind' },
    required: ['kind'],
    oneOf: [
      object({ kind: { const: 'surface' }, surface: name } as const),
      object({ kind: { const: 'blend' }, blend: name } as const),
      object({ kind: { const: 'constant' }, baseColor: colour, roughness: unit, metallic: unit, heightM: metres } as const),
      object({
        kind: { const: 'water' },
        levelM: metres,
        clearM: number(0.001, 100),
        murk: colour,
        scatter: colour,
        roughness: unit,
        ripple: unit,
        rippleM: sizeM,
        rimM: number(0, 10),
        wet: unit,
      } as const),
    ],
  },
  on: flag,
  solo: flag,
  strength: unit,
  shared: optional(id),
  coverage: COVERAGE_SCHEMA,
  group: optional(id),
  mode: { enum: COLOUR_MODES },
  untouched: {
    type: 'object',
    additionalProperties: false,
    properties: Object.fromEntries(MATERIAL_ROLES.map((role) => [role, { const: true }])) as Record<(typeof MATERIAL_ROLES)[number], { const: true }>,
  },
  look,
  seam,
} as const);
/** Ways in which a surface lies are left out where it lies as usual. */
const layer = {
  ...alwaysOfLayer,
  properties: {
    ...alwaysOfLayer.properties,
    laying: some({
      far: object({ times: number(1, 1000), fromM: number(0, 1e5), toM: number(0, 1e5) } as const),
      turns: { ...turns, properties: { ...turns.properties, over } },
      cells: { ...cells, properties: { ...cells.properties, over } },
      macro: { ...macro, properties: { ...macro.properties, over } },
      sides: { const: true },
    } as const),
  },
} as const;

const painted = object({
  vertices: whole(3, MAX_PAINTED),
  finer: whole(0, MAX_FINER),
  tiles: { type: 'object', additionalProperties: HASH, maxProperties: tileCount(MAX_PAINTED), propertyNames: { pattern: '^(0|[1-9][0-9]{0,2})$' } },
} as const);

const coordinate = number(-100, 100);
const always = object({
  kind: { const: 'blend' },
  version: { const: 3 },
  name: text,
  extentM: sizeM,
  specimen: id,
  standsAtM: number(-20000, 20000),
  cut: object({ ax: coordinate, ay: coordinate, bx: coordinate, by: coordinate } as const),
  layers: { ...keyed(layer), maxProperties: MAX_LAYERS },
  groups: { ...keyed(object({ name: text, on: flag, coverage: COVERAGE_SCHEMA } as const)), maxProperties: MAX_LAYERS },
  coverages: { ...keyed(object({ name: text, coverage: COVERAGE_SCHEMA } as const)), maxProperties: 64 },
} as const);
export const BLEND_SCHEMA = {
  ...always,
  properties: {
    ...always.properties,
    paint: { ...keyed(painted), maxProperties: 64 },
    drawn: object({ as: { enum: DRAWN_AS }, cut: unit } as const),
  },
} as const;
