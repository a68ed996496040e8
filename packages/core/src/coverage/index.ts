// The coverage room: cues folded into how present a layer is at a point, before heights decide; and the same said
// as a sentence, and read from one.
export * from './cues';
export * from './lower';
export * from './words';
export * from './sentence';
export * from './parse';
export * from './weathering';
export * from './ids';
