// @pebble/usecases: what people do, over ports. The leaves are PostgreSQL (server) and plain folders (command line).
export * from './errors';
export * from './ports';
export * from './maps';
export * from './surfaces';
export * from './ingredients';
export * from './blends';
export { knowMeshFacts, liesOn, placedMesh } from './on-mesh';
export type { LiesOn, MeshPorts } from './on-mesh';
export * from './places';
export * from './packing';
export * from './import-plan';
export * from './looking';
export * from './making';
export * from './mesh-intake';
export * from './remap';
export { EXAMPLE_MASTERS, STILL_MASTERS } from './examples/masters';
export { STILL, STILL_COLOURS } from './examples/still';
export { materialXOf } from './materialx';
