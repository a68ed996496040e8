// The material room: what stands between documents and evaluation. Blends lower to a `Material`, graphs and terrains will;
// stage, flat, section, account, bands, previews, baking, packing and prices take nothing else.
export * from './material';
export * from './reads';
export * from './programs';
export * from './maps';
export * from './section';
export * from './account';
export * from './relief';
export * from './live';
