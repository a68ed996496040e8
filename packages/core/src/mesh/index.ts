// The mesh room: triangle meshes as flat arrays in metres (+Y up), the specimens on which blends are looked at, parts and
// levels of meshes that are brought in, normals where they are missing, texture coordinates and what they are worth, cameras
// and plain pictures.
export { boundsOf, merged, withExtent } from './mesh';
export type { Mesh } from './mesh';
export * from './asset';
export { Bvh } from './bvh';
export * from './begins';
export * from './beside';
export * from './camera';
export * from './colouring';
export * from './covered';
export { spreadOver } from './gbuffer';
export type { MeshBuffer } from './gbuffer';
export * from './ground';
export * from './model';
export * from './normals';
export * from './page';
export * from './nearest';
export * from './pick';
export * from './picture';
export * from './pad';
export { fillTriangle } from './raster';
export * from './seen';
export * from './specimens';
export * from './surroundings';
export * from './tiles';
export * from './trace';
export * from './uv';
export { weld } from './weld';
export * from './ids';
export * from './displace';
export * from './overdraw';
export * from './overlap';
export * from './object-normals';
