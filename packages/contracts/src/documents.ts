import type {
  AssetDocument,
  BlendDocument,
  MasterDocument,
  ProjectDocument,
  RecipeDocument,
  SpecimenDocument,
  SurfaceDocument,
  TargetDocument,
} from '@pebble/core';
import {
  FIELD_SIDES,
  FILTERS,
  FINDING_CODES,
  FORMATS,
  GENERATORS,
  KTX2_KINDS,
  MAX_SLOTS,
  MAX_STAMPS,
  MAX_TERRAIN_LAYERS,
  NAME_CASES,
  VERSION_PATTERN,
  ROLES,
  STEP_KINDS,
  TEXTURE_FILE_KINDS,
  WRAPS,
} from '@pebble/core';
import type { FromSchema } from 'json-schema-to-ts';
import type { BLEND_SCHEMA } from './blend';
import type { MASTER_SCHEMA } from './master';
import { TERRAIN_FACTS } from './terrain';
import { STAMPS } from './stamps';
import { HASH, id, keyed, number, object, optional, order, seed, some, text, unit, whole } from './shapes';

/** Strengths of a generated surface's structures. */
export const AMOUNTS = {
  type: 'object',
  additionalProperties: number(0, 2),
  maxProperties: 32,
  propertyNames: { pattern: '^[a-z]{1,32}$' },
} as const;
const GENERATED = {
  type: 'object',
  additionalProperties: false,
  required: ['name', 'seed'],
  properties: { name: { enum: Object.keys(GENERATORS) as (keyof typeof GENERATORS)[] }, seed, amounts: AMOUNTS },
} as const;

const kept = { blob: HASH, width: whole(1, 16384), height: whole(1, 16384) } as const;
const pixels = object({ ...kept, channels: whole(1, 4), depth: { enum: [8, 16] } } as const);
const stagePixels = { ...pixels, properties: { ...pixels.properties, coarse: object(kept) } } as const;

const SPACES = { enum: ['srgb', 'linear', 'data'] } as const;
const GREEN = { enum: ['y+', 'y-', null] } as const;
const settings = some({
  wrap: { enum: WRAPS },
  filter: { enum: FILTERS },
  format: { enum: FORMATS },
  mips: { type: 'boolean' },
  streaming: { type: 'boolean' },
  maxSize: whole(1, 16384),
  dropMips: whole(0, 14),
} as const);
const FINDING = {
  type: 'object',
  additionalProperties: false,
  // What a question may be answered by is there only while it is asked.
  required: ['code', 'severity', 'message', 'confidence'],
  properties: {
    code: { enum: FINDING_CODES },
    severity: { enum: ['question', 'warning', 'info'] },
    message: { type: 'string', maxLength: 1000 },
    confidence: unit,
    answers: { type: 'array', items: { enum: [...ROLES, 'channels', 'y+', 'y-', 'skip'] }, maxItems: 24 },
  },
} as const;
export const FINDINGS = { type: 'array', items: FINDING, maxItems: 50 } as const;
export const STEP = object({
  order,
  kind: { enum: STEP_KINDS },
  on: { type: 'boolean' },
  values: { type: 'object', additionalProperties: number(-1e6, 1e6), maxProperties: 16, propertyNames: { pattern: '^[a-zA-Z0-9]{1,32}$' } } as const,
} as const);
export const MAP_SOURCE = {
  oneOf: [object({ blob: HASH, fileName: text, normalDirection: GREEN, colourSpace: SPACES } as const), object({ role: { enum: ROLES } } as const)],
} as const;
export const STEP_STACK = { ...keyed(STEP), maxProperties: 32 } as const;
const notes = { type: 'array', items: { type: 'string' }, maxItems: 100 } as const;

const entry = object({
  blob: HASH,
  fileName: text,
  bytes: whole(0, 2 ** 40),
  width: whole(1, 16384),
  height: whole(1, 16384),
  channels: whole(1, 4),
  depth: { enum: [8, 16, 32] },
  colourSpace: SPACES,
  normalDirection: GREEN,
  stage: stagePixels,
} as const);
const mapEntry = {
  ...entry,
  properties: {
    ...entry.properties,
    space: { const: 'object' },
    settings,
    overrides: { ...keyed(settings), maxProperties: 64 },
    findings: FINDINGS,
    made: object({ source: MAP_SOURCE, steps: STEP_STACK, notes } as const),
  },
} as const;

const project = object({
  kind: { const: 'project' },
  version: { const: 1 },
  name: text,
  exportNormal: { enum: ['y+', 'y-'] },
  exportSize: whole(1, 16384),
  target: { type: 'string', minLength: 1, maxLength: 64 },
} as const);
export const PROJECT_SCHEMA = { ...project, properties: { ...project.properties, accepted: keyed(text) } } as const;

const formats = { enum: FORMATS } as const;
const target = object({
  kind: { const: 'target' },
  version: { const: 2 },
  name: text,
  samples: whole(1, 256),
  operations: whole(1, 100000),
  memoryBytes: whole(1024, 2 ** 40),
  maxSize: whole(1, 16384),
  dropMips: whole(0, 14),
  formats: object(Object.fromEntries(ROLES.map((role) => [role, formats])) as Record<(typeof ROLES)[number], typeof formats>),
} as const);
export const TARGET_SCHEMA = { ...target, properties: { ...target.properties, permutations: whole(1, 1e6) } } as const;

const surface = object({
  kind: { const: 'surface' },
  version: { const: 1 },
  name: text,
  sizeM: number(0.001, 10000),
  reliefM: number(0, 100),
  mid: unit,
  maps: {
    type: 'object',
    additionalProperties: false,
    properties: Object.fromEntries(ROLES.map((role) => [role, mapEntry])) as unknown as Record<(typeof ROLES)[number], typeof mapEntry>,
  },
  thumbnail: optional(HASH),
  tone: { type: 'string', pattern: '^#[0-9a-f]{6}$' },
  generator: optional(GENERATED),
  notes,
} as const);
const word = { type: 'string', maxLength: 400 } as const;
export const ORIGIN = object({ author: word, source: word, licence: word } as const);
export const SURFACE_SCHEMA = {
  ...surface,
  properties: {
    ...surface.properties,
    origin: ORIGIN,
    stamped: object({
      on: id,
      specimen: id,
      slots: { type: 'array', items: text, minItems: 1, maxItems: MAX_SLOTS },
      uvSet: whole(0, 15),
      stamps: STAMPS,
      made: object({ stamps: whole(0, MAX_STAMPS), of: keyed({ type: 'string', maxLength: 400 } as const) } as const),
    } as const),
  },
} as const;

const mapRoute = object({ from: { const: 'map' }, role: { enum: ROLES }, channel: { enum: [0, 1, 2, 3] }, invert: { type: 'boolean' } } as const);
const levels = object({ low: unit, high: unit, mid: number(0.01, 0.99) } as const);
const route = {
  oneOf: [
    { ...mapRoute, properties: { ...mapRoute.properties, space: { enum: ['linear', 'srgb'] }, levels } },
    object({ from: { const: 'constant' }, value: unit } as const),
  ],
} as const;

const recipeFile = object({
  order,
  label: text,
  depth: { enum: [8, 16] },
  channels: { type: 'object', additionalProperties: false, properties: { r: route, g: route, b: route, a: route } },
} as const);
const keeping = {
  dither: { type: 'boolean' },
  as: { enum: TEXTURE_FILE_KINDS },
  block: { enum: [...KTX2_KINDS, 'target'] },
  mips: { type: 'boolean' },
  lossy: { type: 'boolean' },
} as const;
const recipe = object({
  kind: { const: 'recipe' },
  version: { const: 1 },
  name: text,
  template: { type: 'string', minLength: 1, maxLength: 120 },
  size: whole(1, 16384),
  files: { ...keyed({ ...recipeFile, properties: { ...recipeFile.properties, ...keeping } } as const), maxProperties: 32 },
  sources: keyed(object({ order } as const)),
} as const);
const code = { type: 'string', pattern: '^[A-Za-z0-9]{1,8}$' } as const;
const codes = {
  type: 'object',
  additionalProperties: false,
  properties: Object.fromEntries(ROLES.map((role) => [role, code])) as Record<(typeof ROLES)[number], typeof code>,
} as const;
export const RECIPE_SCHEMA = {
  ...recipe,
  properties: { ...recipe.properties, case: { enum: NAME_CASES }, codes, edition: { type: 'string', pattern: VERSION_PATTERN } },
} as const;

const specimen = object({
  kind: { const: 'specimen' },
  version: { const: 1 },
  name: text,
  model: HASH,
  file: object({ blob: HASH, fileName: text, bytes: whole(0, 2 ** 40) } as const),
  unitM: number(1e-6, 1e6),
  up: { enum: ['y', 'z'] },
  uvSet: whole(0, 15),
  parts: keyed(
    object({
      order,
      name: text,
      slot: text,
      level: whole(0, 7),
      vertices: whole(0, 2 ** 31),
      triangles: whole(0, 2 ** 31),
      sets: whole(0, 16),
      coloured: { type: 'boolean' },
    } as const),
  ),
  stacking: keyed({ const: true } as const),
  thumbnail: optional(HASH),
  notes,
} as const);
const terrain = object({
  heights: optional(HASH),
  width: whole(FIELD_SIDES.least, FIELD_SIDES.most),
  height: whole(FIELD_SIDES.least, FIELD_SIDES.most),
  ...TERRAIN_FACTS,
} as const);
const tiled = {
  ...terrain,
  properties: { ...terrain.properties, tiles: object({ sideM: number(0.1, 1e5), layers: whole(1, MAX_TERRAIN_LAYERS) } as const) },
} as const;
export const SPECIMEN_SCHEMA = { ...specimen, properties: { ...specimen.properties, origin: ORIGIN, terrain: tiled } } as const;

const assetSlot = object({ order, slot: text, blend: { type: 'string', maxLength: 64 }, uvSet: whole(0, 15), size: number(0.01, 100) } as const);
const asset = object({
  kind: { const: 'asset' },
  version: { const: 1 },
  name: text,
  specimen: { type: 'string', minLength: 1, maxLength: 64 },
  slots: {
    ...keyed({ ...assetSlot, properties: { ...assetSlot.properties, variant: { type: 'string', maxLength: 64 }, side: whole(1, 16384) } } as const),
    maxProperties: MAX_SLOTS,
  },
} as const);
export const ASSET_SCHEMA = { ...asset, properties: { ...asset.properties, variants: { type: 'boolean' } } } as const;

// The schemas and core's types say the same, or this file does not compile.
type Mutual<A, B> = [A] extends [B] ? ([B] extends [A] ? true : 'the type of core is wider') : 'the schema is wider';
type Plain<T> = T extends readonly (infer E)[] ? Plain<E>[] : T extends object ? { [K in keyof T]: Plain<T[K]> } : T;
const same = <T extends true>(): T | void => undefined;
same<Mutual<Plain<FromSchema<typeof PROJECT_SCHEMA>>, ProjectDocument>>();
same<Mutual<Plain<FromSchema<typeof BLEND_SCHEMA>>, Plain<BlendDocument>>>();
same<Mutual<Plain<FromSchema<typeof RECIPE_SCHEMA>>, Plain<RecipeDocument>>>();
same<Mutual<Plain<FromSchema<typeof SURFACE_SCHEMA>>, Plain<SurfaceDocument>>>();
same<Mutual<Plain<FromSchema<typeof TARGET_SCHEMA>>, Plain<TargetDocument>>>();
same<Mutual<Plain<FromSchema<typeof SPECIMEN_SCHEMA>>, Plain<SpecimenDocument>>>();
same<Mutual<Plain<FromSchema<typeof ASSET_SCHEMA>>, Plain<AssetDocument>>>();
same<Mutual<Plain<FromSchema<typeof MASTER_SCHEMA>>, Plain<MasterDocument>>>();
