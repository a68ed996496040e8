// The cost room: runtime targets, the settings of maps in them, and the memory of textures.
export * from './memory';
export * from './settings';
export * from './targets';
export * from './files';
