// The paint room: vertex colours by brush. What a dab does to the vertices that it reaches along the surface, strokes that
// do not depend on how often a pointer reports, colours as tiles of bytes that documents name, and finer meshes where
// there are too few vertices.
export * from './brush';
export * from './brushing';
export * from './finer';
export * from './painted';
export * from './painter';
export * from './tiles';
export * from './wells';
