import type { AnyDocument, DocumentKind, MeshPlace, SentFile } from '@pebble/core';
import { ROLES } from '@pebble/core';
import type { FromSchema } from 'json-schema-to-ts';
import { AMOUNTS, FINDINGS, MAP_SOURCE, ORIGIN, STEP_STACK } from './documents';
import { HASH, optional } from './shapes';
import { TERRAIN_FACTS } from './terrain';

/** A document as the server gives it. */
export interface StoredDocument<T = AnyDocument> {
  id: string;
  kind: DocumentKind;
  version: number;
  body: T;
}

/** One step of a document's history, as the named list of undo shows it. */
export interface HistoryStep {
  version: number;
  label: string;
  at: string;
  /** Whether it is in effect. */
  done: boolean;
}
export interface History {
  /** Newest last. */
  steps: HistoryStep[];
  undo: string | null;
  redo: string | null;
  /** Version before which there are more steps in effect; null where these are all. */
  more: number | null;
}

/** RFC 9457. */
export interface Problem {
  type: string;
  title: string;
  status: number;
  detail: string;
  /** Our own code of the error. */
  code: string;
  /** Where: document, file, path … */
  place?: string;
  [extra: string]: unknown;
}

export const PATCH_SCHEMA = {
  type: 'array',
  minItems: 1,
  maxItems: 2000,
  items: {
    type: 'object',
    required: ['op', 'path'],
    additionalProperties: false,
    properties: {
      op: { enum: ['add', 'remove', 'replace', 'move', 'copy', 'test'] },
      path: { type: 'string', maxLength: 1000 },
      from: { type: 'string', maxLength: 1000 },
      value: {},
    },
  },
} as const;

export const EDIT_SCHEMA = {
  type: 'object',
  required: ['opId', 'baseVersion', 'label', 'patch', 'inverse'],
  additionalProperties: false,
  properties: {
    opId: { type: 'string', pattern: '^[0-9a-f-]{36}$' },
    baseVersion: { type: 'integer', minimum: 0 },
    label: { type: 'string', minLength: 1, maxLength: 200 },
    patch: PATCH_SCHEMA,
    inverse: PATCH_SCHEMA,
  },
} as const;

/** A file that was uploaded and looked at, before it becomes part of a surface. */
export interface UploadedFile extends SentFile {
  bytes: number;
  /** Kind of file; empty when it could not be read. */
  format: string;
}

/** A picture of one channel, as masks are kept: a grey PNG. */
export interface GreyPicture {
  hash: string;
  width: number;
  height: number;
}

/** What the form settles before an import: one surface and the role of each of its files. */
export const IMPORT_SCHEMA = {
  type: 'object',
  required: ['surfaces'],
  additionalProperties: false,
  properties: {
    surfaces: {
      type: 'array',
      minItems: 1,
      maxItems: 500,
      items: {
        type: 'object',
        required: ['name', 'sizeM', 'reliefM', 'maps'],
        additionalProperties: false,
        properties: {
          name: { type: 'string', minLength: 1, maxLength: 200 },
          sizeM: { type: 'number', minimum: 0.001, maximum: 10000 },
          reliefM: { type: 'number', minimum: 0, maximum: 100 },
          maps: {
            type: 'array',
            minItems: 1,
            maxItems: 40,
            items: {
              type: 'object',
              required: ['blob', 'fileName', 'role', 'normalDirection'],
              additionalProperties: false,
              properties: {
                blob: HASH,
                fileName: { type: 'string', minLength: 1, maxLength: 200 },
                role: { enum: ROLES },
                normalDirection: { enum: ['y+', 'y-'] },
                colourSpace: { enum: ['srgb', 'linear', 'data'] },
                steps: STEP_STACK,
                findings: FINDINGS,
              },
            },
          },
          origin: ORIGIN,
        },
      },
    },
  },
} as const;
export type ImportRequest = FromSchema<typeof IMPORT_SCHEMA>;

const NAMED_BLOBS = {
  type: 'array',
  maxItems: 2000,
  items: {
    type: 'object',
    required: ['blob', 'fileName'],
    additionalProperties: false,
    properties: { blob: HASH, fileName: { type: 'string', minLength: 1, maxLength: 200 } },
  },
} as const;

/** Uploaded files to be looked at before they become anything. */
export const LOOK_SCHEMA = {
  type: 'object',
  required: ['files'],
  additionalProperties: false,
  properties: { files: { ...NAMED_BLOBS, minItems: 1 } },
} as const;
export type LookRequest = FromSchema<typeof LOOK_SCHEMA>;

/** Mesh files to become specimens, and the files that may belong to them. */
export const MESHES_SCHEMA = {
  type: 'object',
  required: ['meshes', 'companions'],
  additionalProperties: false,
  properties: { meshes: { ...NAMED_BLOBS, minItems: 1 }, companions: NAMED_BLOBS },
} as const;
export type MeshesRequest = FromSchema<typeof MESHES_SCHEMA>;

/** Heights to become a terrain, and what their numbers mean; the hillside that ships with the product where there are none. */
export const TERRAIN_SCHEMA = {
  type: 'object',
  required: ['name', 'heights', 'acrossM', 'rangeM', 'footM'],
  additionalProperties: false,
  properties: { name: { type: 'string', minLength: 1, maxLength: 200 }, heights: { oneOf: [NAMED_BLOBS.items, { type: 'null' }] }, ...TERRAIN_FACTS },
} as const;
export type TerrainRequest = FromSchema<typeof TERRAIN_SCHEMA>;

/** A set of texture coordinates to be added to a specimen, for one level of detail. */
export const LAYOUT_SCHEMA = {
  type: 'object',
  required: ['how', 'level'],
  additionalProperties: false,
  properties: { how: { enum: ['unwrap', 'repack'] }, level: { type: 'integer', minimum: 0, maximum: 7 } },
} as const;
export type LayoutRequest = FromSchema<typeof LAYOUT_SCHEMA>;

/** Maps of a surface to be made anew, as one step of its history. */
export const REMAP_SCHEMA = {
  type: 'object',
  required: ['label', 'changes'],
  additionalProperties: false,
  properties: {
    label: { type: 'string', minLength: 1, maxLength: 200 },
    changes: {
      type: 'array',
      minItems: 1,
      maxItems: 18,
      items: {
        type: 'object',
        required: ['role'],
        additionalProperties: false,
        properties: { role: { enum: ROLES }, source: MAP_SOURCE, steps: STEP_STACK, remove: { type: 'boolean' } },
      },
    },
  },
} as const;
export type RemapRequest = FromSchema<typeof REMAP_SCHEMA>;

export const GENERATE_SCHEMA = {
  type: 'object',
  required: ['name', 'seed', 'size'],
  additionalProperties: false,
  properties: {
    name: { type: 'string', maxLength: 64 },
    seed: { type: 'integer', minimum: 0, maximum: 0xffffff },
    size: { type: 'integer', minimum: 16, maximum: 8192 },
    replace: { type: 'string', maxLength: 64 },
    amounts: AMOUNTS,
  },
} as const;

/** A named place of a mesh: a slot, or one part of it. */
const PLACE = {
  type: 'object',
  required: ['slot'],
  additionalProperties: false,
  properties: { slot: { type: 'string', maxLength: 200 }, part: { type: 'string', maxLength: 200 } },
} as const;

/** A blend made a surface. */
export const BAKE_SCHEMA = {
  type: 'object',
  required: ['size'],
  additionalProperties: false,
  properties: {
    size: { type: 'integer', minimum: 16, maximum: 8192 },
    /** The place of the blend's own specimen that its square shows; null over the extent. */
    place: optional(PLACE),
    /** A brought-in specimen whose texture it is baked into. */
    specimen: { type: 'string', maxLength: 64 },
    /** An asset, and the key of the slot whose texture it is baked into. */
    asset: { type: 'string', maxLength: 64 },
    slot: { type: 'string', maxLength: 64 },
  },
} as const;
export interface BakeRequest {
  size: number;
  place?: MeshPlace | null;
  /** A specimen whose texture it is baked into, or a slot (by its key) of an asset. */
  specimen?: string;
  asset?: string;
  slot?: string;
}

export const PACK_SCHEMA = {
  type: 'object',
  required: ['recipe', 'skip'],
  additionalProperties: false,
  properties: { recipe: { type: 'string', maxLength: 64 }, skip: { type: 'array', maxItems: 10000, items: { type: 'string', maxLength: 400 } } },
} as const;
export type PackRequest = FromSchema<typeof PACK_SCHEMA>;

const targets = { type: 'array', minItems: 1, maxItems: 64, items: { type: 'string', minLength: 1, maxLength: 64 } } as const;
const paths = { type: 'array', maxItems: 20000, items: { type: 'string', maxLength: 400 } } as const;
/** What is delivered: ids of targets, and paths that are left out. */
export const DELIVER_SCHEMA = {
  type: 'object',
  required: ['targets', 'skip'],
  additionalProperties: false,
  properties: { targets, skip: paths },
} as const;
export type DeliverRequest = FromSchema<typeof DELIVER_SCHEMA>;
export const PREFLIGHT_SCHEMA = { type: 'object', required: ['targets'], additionalProperties: false, properties: { targets } } as const;
export type PreflightRequest = FromSchema<typeof PREFLIGHT_SCHEMA>;
/** A delivery, by the hash of its manifest. */
export const PROOF_SCHEMA = { type: 'object', required: ['manifest'], additionalProperties: false, properties: { manifest: HASH } } as const;
export type ProofRequest = FromSchema<typeof PROOF_SCHEMA>;
