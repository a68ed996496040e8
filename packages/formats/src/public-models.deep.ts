import { readFile, readdir } from 'node:fs/promises';
import path from 'node:path';
import { FormatError } from './index';
import { isMeshName } from './mesh';
import { readMesh } from './mesh/files';

/** A folder of meshes, good and deliberately broken, that Debian packages for tests of readers. */
const FOLDER = process.env['PEBBLE_MODELS'] ?? '';

describe('meshes of a public collection', () => {
  it('each end in a typed error or a sound mesh', async () => {
    const files = (await readdir(FOLDER, { recursive: true })).filter(isMeshName);
    expect(files.length).toBeGreaterThan(50);
    const read: string[] = [];
    const refused: string[] = [];
    for (const file of files) {
      const folder = path.dirname(path.join(FOLDER, file));
      const sibling = (name: string) =>
        readFile(path.join(folder, name)).then(
          (b) => new Uint8Array(b),
          () => null,
        );
      try {
        const { model } = await readMesh(file, new Uint8Array(await readFile(path.join(FOLDER, file))), sibling);
        for (const { name, mesh } of model.lods.flat()) {
          const count = mesh.position.length / 3;
          expect(mesh.index.every((i) => i < count))
            .withContext(`${file}, ${name}`)
            .toBeTrue();
          for (const values of [mesh.position, mesh.normal, mesh.tangent, mesh.texcoord, mesh.geomcolor])
            expect(values.every(Number.isFinite)).withContext(`${file}, ${name}`).toBeTrue();
          expect([mesh.normal.length, mesh.tangent.length, mesh.texcoord.length, mesh.geomcolor.length].map((l) => l / count)).toEqual([3, 4, 2, 4]);
        }
        read.push(file);
      } catch (error) {
        expect(error)
          .withContext(`${file}: ${(error as Error).stack}`)
          .toBeInstanceOf(FormatError);
        refused.push(file);
      }
    }
    expect(read.length).toBeGreaterThan(30);
    // Those that are broken on purpose, at least.
    for (const name of ['RecursiveNodes.gltf', 'AllIndicesOutOfRange.gltf', 'malformed.obj', 'empty.obj', 'BoxWithInfinites.glb'])
      expect(refused.map((f) => path.basename(f))).toContain(name);
  }, 600_000);
});
