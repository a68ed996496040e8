// The compiler room. A blend (later a graph) lowers to a typed DAG whose nodes are operations of one registry;
// passes make it smaller; two back ends turn it into GLSL ES 3.00 and into steps over typed-array tiles.
// An operation is written once, with everything both back ends, the price and the interface need to know of it.
export * from './types';
export * from './registry';
export * from './builder';
export * from './carried';
export * from './passes';
export * from './glsl';
export * from './vertex-stage';
export * from './tile';
export type { LaneDefinition, Lanes } from './lanes';
export { laneFunction } from './glsl-lanes';
export * from './cpu';
export * from './sources';
export { PACKING, SRGB_UNITS, channelOf, slotOf } from './pictures';
export type { Unit } from './pictures';
export * from './domain';
export * from './price';
