// @pebble/contracts: JSON schemas of documents and of the API, checked equal to core's types when compiling.
export * from './documents';
export * from './blend';
export { HASH } from './shapes';
export * from './api';
export * from './jobs';
export { NORMALS_SCHEMA, STAMP_SCHEMA } from './stamps';
export type { NormalsRequest, StampRequest } from './stamps';
export * from './lists';
export * from './states';
export * from './live';
export * from './validate';
export * from './quarry';
