// The coverage room: cues folded into how present a layer is at a point, before heights decide; and the same said
// as a sentence.
export * from './lower';
export * from './sentence';
