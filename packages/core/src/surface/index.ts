// The surface room: what a map can hold (roles), what file names say about it, relief derived from height
// (normals, occlusion).
export * from './roles';
export * from './names/names';
export type { ChannelOrder } from './names/spellings';
export * from './relief';
