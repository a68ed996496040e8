// @pebble/formats: codecs behind one interface. This door holds what needs neither Node nor a browser: what a file is
// from its first bytes, ZIP writing and content hashes. `./node` and `./web` supply the codecs.
export * from './codec';
export * from './images';
export * from './raw';
export * from './zip';
export * from './hash';
