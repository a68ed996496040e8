// The paint room: vertex colours and masks by brush. What a dab does to the vertices that it reaches along the surface, or
// to the pixels of a mask that repeats; strokes that do not depend on how often a pointer reports; colours as tiles of
// bytes that documents name; finer meshes where there are too few vertices.
export * from './brush';
export * from './brushing';
export * from './finer';
export * from './mask-painter';
export * from './mask-sheet';
export * from './mesh-mask';
export * from './mesh-texels';
export * from './painted';
export * from './painter';
export * from './replay';
export * from './stamp';
export * from './tiles';
export * from './wells';
export * from './scatter';
