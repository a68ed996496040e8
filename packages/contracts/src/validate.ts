import type { AnyDocument, DocumentKind } from '@pebble/core';
import { DOCUMENT_VERSIONS } from '@pebble/core';
import Ajv from 'ajv';
import type { ValidateFunction } from 'ajv';
import { BLEND_SCHEMA } from './blend';
import { MASTER_SCHEMA } from './master';
import { ASSET_SCHEMA, PROJECT_SCHEMA, RECIPE_SCHEMA, SPECIMEN_SCHEMA, SURFACE_SCHEMA, TARGET_SCHEMA } from './documents';

const SCHEMAS: Record<DocumentKind, object> = {
  project: PROJECT_SCHEMA,
  surface: SURFACE_SCHEMA,
  blend: BLEND_SCHEMA,
  recipe: RECIPE_SCHEMA,
  target: TARGET_SCHEMA,
  specimen: SPECIMEN_SCHEMA,
  asset: ASSET_SCHEMA,
  master: MASTER_SCHEMA,
};
export const DOCUMENT_KINDS = Object.keys(SCHEMAS) as DocumentKind[];

const ajv = new Ajv({ strict: false, allErrors: false, discriminator: true });
const compiled = new Map<DocumentKind, ValidateFunction>();

/** What is wrong with a document, as one sentence that names the place; null when nothing is. */
export function documentProblem(body: unknown): string | null {
  if (typeof body !== 'object' || body === null || Array.isArray(body))
    return `This is ${body === null ? 'null' : Array.isArray(body) ? 'a list' : `a ${typeof body}`}, not a document. A document is an object with a kind and a version`;
  const { kind, version } = body as { kind?: DocumentKind; version?: number };
  if (kind === undefined) return `It does not say what kind of document it is: "kind" is missing (${DOCUMENT_KINDS.join(', ')})`;
  if (typeof kind !== 'string' || !Object.hasOwn(SCHEMAS, kind))
    return `${JSON.stringify(kind)} is not a kind of document (${DOCUMENT_KINDS.join(', ')})`;
  // Newer versions are refused, not guessed at.
  const newest = DOCUMENT_VERSIONS[kind];
  if (typeof version === 'number' && version > newest)
    return `This ${kind} was written by a newer version of the program (format ${version}, this one reads up to ${newest}). Update first`;
  let validate = compiled.get(kind);
  if (!validate) compiled.set(kind, (validate = ajv.compile(SCHEMAS[kind])));
  if (validate(body)) return null;
  const error = validate.errors?.[0];
  return `${error?.instancePath || '/'} ${error?.message ?? 'does not fit'}${error?.params && 'allowedValues' in error.params ? ` (${(error.params['allowedValues'] as unknown[]).join(', ')})` : ''}`;
}

/** @throws TypeError with the sentence of `documentProblem`. */
export function assertDocument(body: unknown): asserts body is AnyDocument {
  const problem = documentProblem(body);
  if (problem) throw new TypeError(problem);
}

const shapes = new Map<object, ValidateFunction>();

/** What does not fit a schema in something that came from outside, as a place and a reason; null when all of it fits. */
export function shapeProblem(schema: object, body: unknown): string | null {
  let validate = shapes.get(schema);
  if (!validate) shapes.set(schema, (validate = ajv.compile(schema)));
  if (validate(body)) return null;
  const error = validate.errors?.[0];
  return `${error?.instancePath || '/'} ${error?.message ?? 'does not fit'}`;
}
