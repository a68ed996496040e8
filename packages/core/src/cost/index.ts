// The cost room: runtime targets and the memory of textures.
export * from './memory';
export * from './targets';
