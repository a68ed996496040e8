import { DRAWN_AS, LOOP_S, MASTER_OUTPUTS, MAX_OPERATIONS, ROLES } from '@pebble/core';
import { colour, flag, id, keyed, number, object, optional, order, text } from './shapes';

const some = { type: 'string', maxLength: 200 } as const;
const anything = number(-1e30, 1e30);
const numbers = { type: 'array', items: anything, minItems: 1, maxItems: 4 } as const;
const key = { type: 'string', pattern: '^[A-Za-z0-9_-]{1,64}$' } as const;
/** Names of ports: those of formulas and of places in blends too. */
const port = { type: 'string', pattern: '^[A-Za-z0-9_.-]{1,200}$' } as const;
const byPort = <S>(schema: S) =>
  ({ type: 'object', additionalProperties: schema, maxProperties: 128, propertyNames: { pattern: port.pattern } }) as const;

const source = {
  type: 'object',
  discriminator: { propertyName: 'from' },
  required: ['from'],
  oneOf: [
    object({ from: { const: 'value' }, value: numbers } as const),
    object({ from: { const: 'link' }, operation: key, port } as const),
    object({ from: { const: 'parameter' }, parameter: key } as const),
    object({ from: { const: 'published' }, published: key } as const),
  ],
} as const;

const operation = object({
  order,
  step: { type: 'string', pattern: '^[A-Za-z0-9_]{1,64}$' },
  name: some,
  inputs: byPort(source),
  settings: {
    type: 'object',
    additionalProperties: { anyOf: [{ type: 'string', maxLength: 10000 }, anything] },
    maxProperties: 32,
    propertyNames: { pattern: key.pattern },
  },
  bypassed: flag,
  frame: optional(key),
  note: { type: 'string', maxLength: 2000 },
} as const);

const help = { type: 'string', maxLength: 1000 } as const;
const holds = {
  type: 'object',
  discriminator: { propertyName: 'kind' },
  required: ['kind'],
  oneOf: [
    object({ kind: { const: 'number' }, value: numbers, low: anything, high: anything, unit: { type: 'string', maxLength: 20 } } as const),
    object({ kind: { const: 'colour' }, value: colour } as const),
    object({ kind: { const: 'map' }, surface: { type: 'string', maxLength: 64 }, role: { enum: ROLES } } as const),
    object({ kind: { const: 'surface' }, surface: { type: 'string', maxLength: 64 } } as const),
  ],
} as const;
const named = { order, name: text } as const;

export const MASTER_SCHEMA = object({
  kind: { const: 'master' },
  version: { const: 2 },
  name: text,
  help,
  extentM: number(0.001, 10000),
  specimen: id,
  operations: { ...keyed(operation), maxProperties: MAX_OPERATIONS },
  outputs: {
    type: 'object',
    additionalProperties: false,
    properties: Object.fromEntries(MASTER_OUTPUTS.map((name) => [name, source])) as unknown as Record<(typeof MASTER_OUTPUTS)[number], typeof source>,
  },
  parameters: { ...keyed(object({ ...named, group: optional(key), help, holds } as const)), maxProperties: 400 },
  switches: { ...keyed(object({ ...named, group: optional(key), help, on: flag } as const)), maxProperties: 64 },
  groups: { ...keyed(object(named)), maxProperties: 100 },
  published: { ...keyed(object({ ...named, operation: key, port } as const)), maxProperties: 200 },
  frames: { ...keyed(object({ ...named, folded: flag } as const)), maxProperties: 200 },
  drawn: { enum: DRAWN_AS },
  cut: number(0, 1),
  loopS: number(LOOP_S.least, LOOP_S.most),
  variants: {
    ...keyed(
      object({
        ...named,
        values: { ...keyed(object({ name: text, holds } as const)), maxProperties: 400 },
        switches: { ...keyed(object({ name: text, on: flag } as const)), maxProperties: 64 },
      } as const),
    ),
    maxProperties: 100,
  },
} as const);
