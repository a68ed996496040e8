// What a delivery will be, from documents alone: light enough for a page.
export * from './slots';
export * from './plan';
export * from './facts';
