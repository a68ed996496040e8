// The surface room: what a map can hold (roles), what file names say about it, relief derived from height
// (normals, occlusion), and surfaces generated from a seed.
export * from './roles';
export * from './names';
export * from './relief';
export * from './recipe';
export * from './even';
export * from './generate';
