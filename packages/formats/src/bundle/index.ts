// Bundles in: opened as strictly as a device does, from a folder or a ZIP. Runs on Node and in the browser.
export * from './read';
export * from './device';
export * from './terrains';
