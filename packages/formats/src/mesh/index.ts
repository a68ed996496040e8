// Mesh files in and out: binary and plain glTF 2.0, OBJ.
export { readGltf } from './gltf';
export { readObj } from './obj';
export { writeGlb } from './write';
export * from './materials';
export { withTangents } from './finish';
export * from './kinds';
export * from './names';
