// The light room: a generated sky, its spherical harmonics and pre-filtered map (computed once, shipped as data), the
// glTF 2.0 BRDF as a reference in numbers, and the lit pebble that stands for a surface.
export * from './sky';
export * from './brdf';
export * from './prefilter';
export * from './tone';
export * from './pebble';
export * from './pictured';
export * from './lobe';
export * from './lobe-fit';
export * from './shade';
export * from './flat';
export * from './sheet';
export * from './reference';
