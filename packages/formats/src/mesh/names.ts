// Which files are taken for meshes, by their names; apart from the readers, as lists ask before anything is read.
export const MESH_ENDINGS = ['.glb', '.gltf', '.obj'];
/** Files that meshes are read with; of no use by themselves. */
export const COMPANION_ENDINGS = ['.bin', '.mtl'];
const ends = (name: string, endings: readonly string[]): boolean => endings.some((e) => name.toLowerCase().endsWith(e));
export const isMeshName = (name: string): boolean => ends(name, MESH_ENDINGS);
export const isCompanionName = (name: string): boolean => ends(name, COMPANION_ENDINGS);
