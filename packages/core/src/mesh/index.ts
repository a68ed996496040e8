// The mesh room: triangle meshes as flat arrays in metres (+Y up), and the specimens on which blends are looked at.
export * from './specimens';
