import { Logger, WebIO } from '@gltf-transform/core';
import { KHRDracoMeshCompression } from '@gltf-transform/extensions';
import { SPECIMEN_MODELS, makeRandom } from '@pebble/core';
import type { Model } from '@pebble/core';
import draco3d from 'draco3dgltf';
import { FormatError } from '../codec';
import { readMesh } from './files';
import { readGltf, writeGlb } from './index';

const FAULTS = Number(process.env['PEBBLE_FAULTS'] ?? 100);
const { EncoderMethod } = KHRDracoMeshCompression;
type Method = (typeof EncoderMethod)[keyof typeof EncoderMethod];

/** A model as a file whose meshes are packed, positions to 16 bits. */
async function packed(model: Model, method: Method): Promise<Uint8Array> {
  const io = new WebIO()
    .setLogger(new Logger(Logger.Verbosity.SILENT))
    .registerExtensions([KHRDracoMeshCompression])
    .registerDependencies({ 'draco3d.encoder': await draco3d.createEncoderModule({}) });
  const document = await io.readBinary(await writeGlb('packed', model));
  document
    .createExtension(KHRDracoMeshCompression)
    .setRequired(true)
    .setEncoderOptions({ method, quantizationBits: { POSITION: 16, NORMAL: 12, COLOR: 8, TEX_COORD: 14 } });
  return io.writeBinary(document);
}
const outcome = (work: Promise<unknown>): Promise<unknown> =>
  work.then(
    () => 'read',
    (error: unknown) => error,
  );
const failing = async (work: Promise<unknown>): Promise<FormatError> => {
  const error = await outcome(work);
  expect(error).withContext(String(error)).toBeInstanceOf(FormatError);
  return error as FormatError;
};
const area = ({ position: p, index }: { position: Float32Array; index: Uint32Array }): number => {
  let sum = 0;
  for (let t = 0; t < index.length; t += 3) {
    const [a, b, c] = [index[t] * 3, index[t + 1] * 3, index[t + 2] * 3];
    const e = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
    const f = [0, 1, 2].map((k) => p[c + k] - p[a + k]);
    sum += Math.hypot(e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]) / 2;
  }
  return sum;
};

describe('meshes packed by Draco', () => {
  const still = SPECIMEN_MODELS['copper-still'](1);
  const plain: Model = { title: 'Still', lods: [still.lods[0]] };

  it('come out in sequence as they went in, as far as their bits go', async () => {
    const { model } = await readMesh('still.glb', await packed(plain, EncoderMethod.SEQUENTIAL));
    const [got, given] = [model.lods[0], plain.lods[0]];
    expect(got.map((p) => [p.name, p.slot])).toEqual(given.map((p) => [p.name, p.slot]));
    got.forEach(({ mesh, name }, i) => {
      const was = given[i].mesh;
      expect(mesh.index).withContext(name).toEqual(was.index);
      const off = (a: Float32Array, b: Float32Array) => a.reduce((worst, v, k) => Math.max(worst, Math.abs(v - b[k])), 0);
      expect(off(mesh.position, was.position))
        .withContext(name)
        .toBeLessThan((2 / 65535) * 2);
      expect(off(mesh.normal, was.normal)).withContext(name).toBeLessThan(0.004);
      expect(off(mesh.geomcolor, was.geomcolor))
        .withContext(name)
        .toBeLessThan(1 / 255 + 1e-6);
      expect(off(mesh.texcoord, was.texcoord)).withContext(name).toBeLessThan(0.002);
    });
  });
  it('walked edge by edge hold the same triangles, whatever their order', async () => {
    const { model } = await readMesh('still.glb', await packed(plain, EncoderMethod.EDGEBREAKER));
    model.lods[0].forEach(({ mesh }, i) => {
      const was = plain.lods[0][i].mesh;
      expect(mesh.index.length).toBe(was.index.length);
      expect(area(mesh) / area(was)).toBeCloseTo(1, 3);
    });
  });
  it('are refused with a sentence where nothing unpacks them', async () => {
    const error = await failing(readGltf(await packed(plain, EncoderMethod.SEQUENTIAL)));
    expect(error.message).toMatch(/KHR_draco_mesh_compression, which is not read here. Export it without/);
  });
  it('that claim more than their accessors say are refused before memory is asked for', async () => {
    for (const method of [EncoderMethod.EDGEBREAKER, EncoderMethod.SEQUENTIAL]) {
      const file = await packed(plain, method);
      const at = Buffer.from(file).indexOf('DRACO');
      // Behind the header, and how it was walked: the first count becomes one of four bytes.
      file.set([0xff, 0xff, 0xff, 0x7f], at + 11 + (method === EncoderMethod.EDGEBREAKER ? 1 : 0));
      expect((await failing(readMesh('still.glb', file))).message).toMatch(
        /primitives\[0\].*it holds [\d,]+ (triangles|vertices), and its accessor says/,
      );
    }
  });
  it('of another version, or that are none, say so', async () => {
    const file = await packed(plain, EncoderMethod.SEQUENTIAL);
    const at = Buffer.from(file).indexOf('DRACO');
    const changed = (byte: number, value: number) => Object.assign(file.slice(), { [at + byte]: value });
    expect((await failing(readMesh('a.glb', changed(6, 9)))).message).toMatch(/packed by Draco 2.9; 2.2 is read/);
    expect((await failing(readMesh('a.glb', changed(0, 0)))).message).toMatch(/its bytes are not packed by Draco/);
    expect((await failing(readMesh('a.glb', changed(7, 0)))).message).toMatch(/it holds no mesh/);
  });
  it(`with ${FAULTS} seeded faults each end in a typed error or a mesh`, async () => {
    for (const method of [EncoderMethod.EDGEBREAKER, EncoderMethod.SEQUENTIAL]) {
      const file = await packed({ title: '', lods: [[SPECIMEN_MODELS.cube(1).lods[0][0]]] }, method);
      const at = Buffer.from(file).indexOf('DRACO');
      const random = makeRandom(file.length);
      for (let k = 0; k < FAULTS; k++) {
        const broken = file.slice();
        for (let f = 0; f < 1 + (k % 3); f++) broken[at + Math.floor(random() * (file.length - at))] ^= 1 << Math.floor(random() * 8);
        const ended = await outcome(readMesh('cube.glb', broken));
        if (ended !== 'read')
          expect(ended)
            .withContext(`fault ${k}: ${(ended as Error).stack}`)
            .toBeInstanceOf(FormatError);
      }
    }
  }, 1_800_000);
});
