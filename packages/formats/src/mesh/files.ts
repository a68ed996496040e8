// Mesh files as people bring them. Node only, since what unpacks some of them is.
import { FormatError } from '../codec';
import { unpackDraco } from './draco';
import { readGltf } from './gltf';
import type { MeshFile, Siblings } from './kinds';
import { isMeshName } from './names';
import { readObj } from './obj';

/** Reads a mesh by what its name says it is. @throws FormatError */
export async function readMesh(fileName: string, bytes: Uint8Array, siblings?: Siblings): Promise<MeshFile> {
  if (!isMeshName(fileName)) throw new FormatError('unknown-format', 'this is no mesh of a kind that is read (GLB, glTF, OBJ)');
  return /\.obj$/i.test(fileName) ? readObj(bytes) : readGltf(bytes, siblings, unpackDraco);
}
