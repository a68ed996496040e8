// Which files are taken for meshes, by their names; apart from the readers, as lists ask before anything is read.
const MESHES = /\.(glb|gltf|obj)$/i;
/** Files that meshes are read with; of no use by themselves. */
const COMPANIONS = /\.(bin|mtl)$/i;
export const isMeshName = (name: string): boolean => MESHES.test(name);
export const isCompanionName = (name: string): boolean => COMPANIONS.test(name);
