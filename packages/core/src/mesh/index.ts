// The mesh room: triangle meshes as flat arrays in metres (+Y up), and the specimens on which blends are looked at.
export { boundsOf, merged } from './mesh';
export type { Mesh } from './mesh';
export type { Model, Part } from './models';
export * from './specimens';
