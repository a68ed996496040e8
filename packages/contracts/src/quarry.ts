import type { FromSchema } from 'json-schema-to-ts';
import { HASH } from './shapes';

// What the quarry says. It is not trusted: whatever does not fit these shapes goes no further.
const short = { type: 'string', minLength: 1, maxLength: 120 } as const;
const id = { type: 'string', pattern: '^[a-z0-9-]{1,64}$' } as const;

export const QUARRY_PAGE_SCHEMA = {
  type: 'object',
  required: ['total', 'tags', 'items'],
  properties: {
    total: { type: 'integer', minimum: 0, maximum: 1e6 },
    tags: { type: 'array', maxItems: 100, items: short },
    items: {
      type: 'array',
      maxItems: 50,
      items: {
        type: 'object',
        required: ['id', 'title', 'tags', 'sizes', 'author', 'licence'],
        properties: {
          id,
          title: short,
          tags: { type: 'array', maxItems: 20, items: short },
          sizes: { type: 'array', minItems: 1, maxItems: 10, items: { type: 'integer', minimum: 1, maximum: 16384 } },
          author: short,
          licence: short,
        },
      },
    },
  },
} as const;
export type QuarryPage = FromSchema<typeof QUARRY_PAGE_SCHEMA>;

export const QUARRY_FILES_SCHEMA = {
  type: 'object',
  required: ['title', 'sizeM', 'reliefM', 'files'],
  properties: {
    title: short,
    sizeM: { type: 'number', minimum: 0.001, maximum: 10000 },
    reliefM: { type: 'number', minimum: 0, maximum: 100 },
    files: {
      type: 'array',
      minItems: 1,
      maxItems: 20,
      items: {
        type: 'object',
        required: ['name', 'bytes', 'sha256'],
        properties: {
          name: { type: 'string', pattern: '^[A-Za-z0-9_]{1,80}\\.(png|jpg)$' },
          bytes: { type: 'integer', minimum: 1, maximum: 2 ** 28 },
          sha256: HASH,
        },
      },
    },
  },
} as const;
export type QuarryFiles = FromSchema<typeof QUARRY_FILES_SCHEMA>;

/** One surface to be fetched, with what the list said of it. */
export const FETCH_SCHEMA = {
  type: 'object',
  required: ['id', 'size', 'author', 'licence'],
  additionalProperties: false,
  properties: { id, size: { type: 'integer', minimum: 1, maximum: 16384 }, author: short, licence: short },
} as const;
export type FetchRequest = FromSchema<typeof FETCH_SCHEMA>;
