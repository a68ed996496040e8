// The loading ramp: what is delivered, how it is checked before, made, and proved after.
export * from './assets';
export * from './plan';
export * from './facts';
export * from './deliver';
export * from './proof';
