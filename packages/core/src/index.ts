// @pebble/core: the computation and the document types. No DOM, no Node, no I/O, no clock, no global state.
export * from './geometry';
export * from './image';
export * from './noise';
export * from './surface';
export * from './recognise';
export * from './document';
export * from './compile';
export * from './coverage';
export * from './blend';
export * from './mesh';
export * from './paint';
export * from './light';
export * from './pack';
export * from './cost';
export * from './derive';
