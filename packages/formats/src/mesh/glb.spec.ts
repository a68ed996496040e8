import type { CertainInput, Part } from '@pebble/core';
import { SPECIMENS, SPECIMEN_MODELS } from '@pebble/core';
import { FormatError } from '../codec';
import { readGltf, writeGlb } from './index';

describe('specimens as binary glTF', () => {
  for (const name of SPECIMENS)
    it(`${name}: is written and read without loss`, async () => {
      const model = SPECIMEN_MODELS[name](1);
      const back = (await readGltf(await writeGlb(name, model))).model;
      expect(back.title).toBe(model.title);
      expect(back.lods.length).toBe(model.lods.length);
      model.lods.forEach((parts, lod) => {
        const names = (of: Part[]) => of.map((p) => `${p.name}/${p.slot}`);
        expect(names(back.lods[lod])).toEqual(names(parts));
        parts.forEach(({ mesh }, k) => {
          for (const key of Object.keys(mesh) as (CertainInput | 'index')[])
            expect(Buffer.compare(Buffer.from(back.lods[lod][k].mesh[key].buffer), Buffer.from(mesh[key].buffer)))
              .withContext(`${parts[k].name} ${key}`)
              .toBe(0);
        });
      });
    });
  it('says what is wrong with other files', async () => {
    await expectAsync(readGltf(Uint8Array.of(1, 2, 3, 4))).toBeRejectedWithError(FormatError, /its JSON cannot be read/);
    const bytes = await writeGlb('sphere', SPECIMEN_MODELS.sphere(1));
    await expectAsync(readGltf(bytes.subarray(0, 200))).toBeRejectedWithError(FormatError, /says to be \d+ bytes long and ends after 200/);
  });
});
