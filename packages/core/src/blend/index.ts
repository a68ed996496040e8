// The blend room: layers lowered to the DAG of the compiler (crossover and composition), the interval arithmetic that
// fixes their spans, and what they cost.
export * from './stack';
export * from './values';
export * from './lower';
export { SurfaceMaps } from './layer-maps';
export { mixedExtras, mixedShading } from './shading';
export type { Shading } from './shading';
export { flooded } from './water';
export * from './material';
export * from './price';
export * from './repeats';
