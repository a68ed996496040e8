// The terrain room: heightfields in true metres, the hillside that ships with the product, weights of layers by rule and as
// they are stored, and the tiles that a terrain is drawn in.
export * from './heightfield';
export * from './hillside';
export * from './weights';
export * from './rules';
export * from './sky';
export * from './detail';
export * from './seen';
export * from './tiles';
export * from './water';
