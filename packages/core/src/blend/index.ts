// The blend room: layers lowered to the DAG of the compiler (crossover and composition), the interval arithmetic that
// fixes their spans, and what they cost.
export * from './stack';
export * from './values';
export * from './lower';
export { SurfaceMaps, mixedExtras, mixedShading } from './layer-maps';
export type { Shading } from './layer-maps';
export { flooded } from './water';
export * from './material';
export * from './price';
