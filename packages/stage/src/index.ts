// @pebble/stage: the WebGL2 view. Light, the glTF 2.0 BRDF, live mode for looking and exact mode for proving.
export * from './gl';
export * from './material';
export * from './textures';
export * from './shaders';
export * from './shadow';
export * from './flat';
export type { Pane, StageLook } from './look';
export * from './frames';
export * from './stage';
export * from './remote';
export * from './exact';
export type * from './stand-in';
export { TRIED_WAYS, thrown } from './tried';
export type { Tried, TriedPicture, TriedWay } from './tried';
