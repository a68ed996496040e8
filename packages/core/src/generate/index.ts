// The generators' room: surfaces drawn from a seed by graphs of operations, each recipe a file, with even light over a tile.
export * from './recipe';
export * from './even';
export * from './generate';
