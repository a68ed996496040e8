// Mesh files in and out: binary and plain glTF 2.0, OBJ.
import { FormatError } from '../codec';
import { readGltf } from './gltf';
import type { MeshFile, Siblings } from './kinds';
import { isMeshName } from './names';
import { readObj } from './obj';

export { readGltf } from './gltf';
export { readObj } from './obj';
export { writeGlb } from './write';
export { withTangents } from './finish';
export * from './kinds';
export * from './names';

/** Reads a mesh by what its name says it is. @throws FormatError */
export async function readMesh(fileName: string, bytes: Uint8Array, siblings?: Siblings): Promise<MeshFile> {
  if (!isMeshName(fileName)) throw new FormatError('unknown-format', 'this is no mesh of a kind that is read (GLB, glTF, OBJ)');
  return /\.obj$/i.test(fileName) ? readObj(bytes) : readGltf(bytes, siblings);
}
