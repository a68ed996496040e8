// The loading ramp: what is delivered, how it is checked before, made, and proved after.
export * from './planning';
export * from './assets';
export * from './deliver';
export * from './proof';
export * from './finish';
