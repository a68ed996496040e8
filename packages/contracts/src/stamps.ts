import { MAX_STAMPS, NORMAL_SPACES, STAMP_LIMITS } from '@pebble/core';
import type { FromSchema } from 'json-schema-to-ts';
import { colour, id, keyed, number, object, order, seed, unit } from './shapes';

const vector = { type: 'array', items: number(-1e6, 1e6), minItems: 3, maxItems: 3 } as const;
const pressed = object({
  order,
  surface: id,
  seed,
  at: vector,
  radiusM: number(...STAMP_LIMITS.radiusM),
  strength: unit,
  falloff: unit,
  scale: number(...STAMP_LIMITS.scale),
  turn: number(-1e3, 1e3),
  tint: colour,
  byHeight: unit,
} as const);
/** Stamps by their keys. */
export const STAMPS = {
  ...keyed({
    ...pressed,
    properties: { ...pressed.properties, up: vector, offset: { type: 'array', items: number(-1e6, 1e6), minItems: 2, maxItems: 2 } },
  } as const),
  maxProperties: MAX_STAMPS,
} as const;

/** Stamps to be pressed into what slots of an asset wear, and keys of those that are to go. */
export const STAMP_SCHEMA = {
  type: 'object',
  required: ['surface', 'add', 'remove'],
  additionalProperties: false,
  properties: {
    /** The surface that the slots wear now. */
    surface: id,
    add: STAMPS,
    remove: { type: 'array', items: id, maxItems: MAX_STAMPS },
  },
} as const;
export type StampRequest = FromSchema<typeof STAMP_SCHEMA>;

/** Normals of what slots of an asset wear, to be turned into the other space. */
export const NORMALS_SCHEMA = {
  type: 'object',
  required: ['surface', 'to'],
  additionalProperties: false,
  properties: { surface: id, to: { enum: NORMAL_SPACES } },
} as const;
export type NormalsRequest = FromSchema<typeof NORMALS_SCHEMA>;
