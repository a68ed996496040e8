import type { Model, Part } from '@pebble/core';
import { SPECIMEN_MODELS, densitySpread, levelMesh, overlapOn, placed, setsOf, slotsOf, stackingKey, uvLayout } from '@pebble/core';
import { FormatError } from '@pebble/formats';
import { readGltf, writeGlb } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { panel } from '../../formats/src/testing/panels';
import { layOut } from './layout';
import { meshesAmong, withCarried } from './mesh-intake';
import { UseCaseError } from './errors';
import { importMesh, readAgain } from './specimens';
import { memoryPorts } from './testing/memory';

const METRES = { unitM: 1, up: 'y' } as const;
const quiet = () => undefined;
const bare = (model: Model): Model => ({ ...model, lods: model.lods.map((parts) => parts.map((p): Part => ({ ...p, sets: [] }))) });
const layoutOf = (model: Model, level: number, set: number) => uvLayout(model.lods[level].map((p) => placed(p, METRES, set)));
/** Every triangle by its corners in space, in the order of the mesh. */
const corners = ({ mesh }: Part): string[] => Array.from(mesh.index, (i) => mesh.position.subarray(i * 3, i * 3 + 3).join());

describe('laying out', () => {
  for (const how of ['unwrap', 'repack'] as const)
    it(`${how}: islands of one density fill one tile, none mirrored, none on another`, async () => {
      const source = SPECIMEN_MODELS['copper-still'](1);
      const { model, set } = await layOut(how === 'unwrap' ? bare(source) : source, how, 1, 0, METRES, quiet);
      expect(set).toBe(how === 'unwrap' ? 0 : 1);
      const layout = layoutOf(model, 1, set);
      expect(layout.overlaps).toEqual([]);
      expect(layout.islands.filter((i) => i.flipped || i.outside || i.repeats || i.folded)).toEqual([]);
      expect(layout.covered).toBeGreaterThan(0.4);
      const spread = densitySpread(layout.islands);
      expect((spread?.high ?? 9) / (spread?.low ?? 1)).toBeLessThan(1.2);
      // The form is what it was, triangle by triangle, and the other level is untouched.
      model.lods[1].forEach((part, k) => expect(corners(part)).toEqual(corners(source.lods[1][k])));
      expect(model.lods[0].map((p) => setsOf(p).length)).toEqual(source.lods[0].map(() => (how === 'unwrap' ? 0 : 1)));
    });
  it('keeps the old set, vertex colours and slots beside the new one', async () => {
    const source = SPECIMEN_MODELS['marker-stone'](1);
    const { model } = await layOut(source, 'unwrap', 1, 0, METRES, quiet);
    const [[before], [after]] = [source.lods[1], model.lods[1]];
    expect(setsOf(after).length).toBe(2);
    expect([after.name, after.slot]).toEqual([before.name, before.slot]);
    for (let k = 0; k < before.mesh.index.length; k += 7) {
      const [a, b] = [before.mesh.index[k], after.mesh.index[k]];
      expect(after.mesh.texcoord.subarray(b * 2, b * 2 + 2)).toEqual(before.mesh.texcoord.subarray(a * 2, a * 2 + 2));
      expect(after.mesh.geomcolor.subarray(b * 4, b * 4 + 4)).toEqual(before.mesh.geomcolor.subarray(a * 4, a * 4 + 4));
    }
  });
  it('gives islands that were stacked places of their own', async () => {
    const [part] = SPECIMEN_MODELS.cube(1).lods[0];
    const stacked: Model = { title: '', lods: [[part, { ...part, name: 'other' }]] };
    expect(layoutOf(stacked, 0, 0).overlaps.length).toBeGreaterThan(0);
    const { model, set } = await layOut(stacked, 'repack', 0, 0, METRES, quiet);
    expect(layoutOf(model, 0, set).overlaps).toEqual([]);
  });
  it('leaves no corner of a tiny triangle at the origin, where it would lie across other islands', async () => {
    // Rounded edges of a millimetre carry half of the vertices of a panel.
    const [, , panels] = SPECIMEN_MODELS['shed-wall'](1).lods[0];
    for (const how of ['unwrap', 'repack'] as const) {
      const { model, set } = await layOut({ title: '', lods: [[panels]] }, how, 0, 0, METRES, quiet);
      const mesh = levelMesh(model, 0, METRES, set);
      expect(overlapOn(mesh, mesh.texcoord).share).withContext(how).toBe(0);
      expect(layoutOf(model, 0, set).covered)
        .withContext(how)
        .toBeGreaterThan(0.4);
    }
  });
  it('tells how far it is, and stops when the listener says so', async () => {
    const told: number[] = [];
    await layOut(SPECIMEN_MODELS['copper-still'](1), 'unwrap', 1, 0, METRES, (done) => told.push(done));
    expect(told.length).toBe(SPECIMEN_MODELS['copper-still'](1).lods[1].length + 1);
    expect([...told].sort((a, b) => a - b)).toEqual(told);
    await expectAsync(
      layOut(SPECIMEN_MODELS.cube(1), 'unwrap', 0, 0, METRES, () => {
        throw new Error('enough');
      }),
    ).toBeRejectedWithError('enough');
  });
  it('cuts a mesh of a millimetre and one of ten kilometres as it cuts one of a metre', async () => {
    const source = bare({ ...SPECIMEN_MODELS['copper-still'](1), lods: [SPECIMEN_MODELS['copper-still'](1).lods[1].slice(0, 1)] });
    const counts: number[] = [];
    for (const unitM of [2 ** -10, 1, 2 ** 13]) {
      const [part] = source.lods[0];
      const model = { ...source, lods: [[{ ...part, mesh: { ...part.mesh, position: part.mesh.position.map((v) => v * unitM) } }]] };
      const made = await layOut(model, 'unwrap', 0, 0, METRES, quiet);
      const layout = layoutOf(made.model, 0, made.set);
      expect(layout.covered).withContext(`${unitM}`).toBeGreaterThan(0.3);
      counts.push(layout.islands.length);
    }
    expect(counts[0]).toBeGreaterThan(0);
    expect(counts).toEqual([counts[1], counts[1], counts[1]]);
  });
  it('refuses a mesh without any area instead of giving it no island', async () => {
    const [part] = SPECIMEN_MODELS.cube(1).lods[0];
    const flat = { ...part, mesh: { ...part.mesh, position: new Float32Array(part.mesh.position.length) } };
    await expectAsync(layOut({ title: '', lods: [[flat]] }, 'unwrap', 0, 0, METRES, quiet)).toBeRejectedWithError(UseCaseError, /have no area/);
  });
  it('says what cannot be laid out', async () => {
    await expectAsync(layOut(bare(SPECIMEN_MODELS.cube(1)), 'repack', 0, 0, METRES, quiet)).toBeRejectedWithError(
      UseCaseError,
      /body has no texture coordinates/,
    );
    const [part] = SPECIMEN_MODELS.cube(1).lods[0];
    const many = { ...part, mesh: { ...part.mesh, index: new Uint32Array(1_500_003) } };
    await expectAsync(layOut({ title: '', lods: [[many]] }, 'unwrap', 0, 0, METRES, quiet)).toBeRejectedWithError(
      UseCaseError,
      /500,001 triangles are too many to cut/,
    );
    await expectAsync(layOut(SPECIMEN_MODELS.cube(1), 'unwrap', 3, 0, METRES, quiet)).toBeRejectedWithError(UseCaseError, /no level of detail 3/);
  });
});

describe('bringing in a mesh', () => {
  it('makes a specimen of it, with a picture and a model that is read back', async () => {
    const ports = memoryPorts();
    const glb = await writeGlb('still', SPECIMEN_MODELS['copper-still'](1));
    const { body, pictures } = await importMesh(ports, { blob: await ports.blobs.put(glb, ''), fileName: 'CopperStill_v2.glb' }, [], quiet);
    expect(body.name).toBe('Copper still v2');
    expect(pictures).toEqual([]);
    const parts = Object.values(body.parts);
    expect(parts.map((p) => [p.name, p.slot, p.level])).toEqual(
      SPECIMEN_MODELS['copper-still'](1).lods.flatMap((level, l) => level.map((p) => [p.name, p.slot, l])),
    );
    expect(parts.every((p) => p.sets === 1 && p.coloured)).toBeTrue();
    const { model } = await readGltf(await ports.blobs.get(body.model));
    expect(model.lods.flat().map((p) => p.mesh.index.length / 3)).toEqual(parts.map((p) => p.triangles));
    const picture = await nodeCodec.decode(await ports.blobs.get(body.thumbnail ?? ''), 'srgb');
    expect([picture.width, picture.height, picture.channels]).toEqual([384, 264, 4]);
    const alphas = Array.from({ length: 384 * 264 }, (_, i) => picture.data[i * 4 + 3]);
    const share = alphas.filter((a) => a > 128).length / alphas.length;
    expect(share).toBeGreaterThan(0.05);
    expect(share).toBeLessThan(0.6);
  });
  it('leaves nothing behind when it is broken', async () => {
    const ports = memoryPorts();
    const blob = await ports.blobs.put(new TextEncoder().encode('{"asset":{"version":"2.0"},"buffers":[{"byteLength":9,"uri":"far.bin"}]}'), '');
    await expectAsync(importMesh(ports, { blob, fileName: 'far.gltf' }, [], quiet)).toBeRejectedWithError(FormatError, /far\.bin is missing/);
    expect(ports.kept.size).toBe(1);
    // With the file that it names it comes further.
    const beside = { blob: await ports.blobs.put(new Uint8Array(9), ''), fileName: 'FAR.bin' };
    await expectAsync(importMesh(ports, { blob, fileName: 'far.gltf' }, [beside], quiet)).toBeRejectedWithError(FormatError, /no triangles/);
  });
  it('whose coordinates lie on tiles that files beside it are numbered by has slots for each of them', async () => {
    const ports = memoryPorts();
    const half = (tile: number) => panel('hull', tile, { sets: [Float32Array.from([0, 1, 1, 1, 0, 0, 1, 0], (x, i) => x + (i % 2 ? 0 : tile))] });
    const glb = { blob: await ports.blobs.put(await writeGlb('a', { title: '', lods: [[half(0), half(1)]] }), ''), fileName: 'a.glb' };
    const slots = async (...files: string[]) => {
      const { body } = await importMesh(
        ports,
        glb,
        files.map((fileName) => ({ blob: 'none', fileName })),
        quiet,
      );
      return { slots: slotsOf(body), notes: body.notes };
    };
    expect(await slots('a_nrm.1001.png', 'a_nrm.1002.png')).toEqual({
      slots: ['hull 1001', 'hull 1002'],
      notes: ['Its textures come in tiles 1001, 1002: each has slots of its own.'],
    });
    expect(await slots('a_nrm_1024.png')).toEqual({ slots: ['hull'], notes: [] });
  });
  it('keeps what was set when its file comes again', async () => {
    const ports = memoryPorts();
    const model = SPECIMEN_MODELS['copper-still'](1);
    const read = async (m: Model) =>
      (await importMesh(ports, { blob: await ports.blobs.put(await writeGlb('a', m), ''), fileName: 'a.glb' }, [], quiet)).body;
    const old = {
      ...(await read(model)),
      name: 'Still',
      unitM: 0.01,
      uvSet: 3,
      stacking: { [stackingKey('p0', 'p1')]: true as const, [stackingKey('p2', 'p2')]: true as const },
    };
    // The pipe went, so that the lid has another number.
    const fewer = { ...model, lods: model.lods.map((parts) => parts.filter((p) => p.name !== 'pipe').reverse()) };
    const again = readAgain(old, await read(fewer));
    const id = (name: string) => Object.entries(again.parts).find(([, p]) => p.name === name && p.level === 0)?.[0] ?? '';
    expect([again.name, again.unitM, again.uvSet]).toEqual(['Still', 0.01, 0]);
    expect(again.stacking).toEqual({ [stackingKey(id('body'), id('lid'))]: true });
  });
});

describe('files that come together', () => {
  const file = (fileName: string, blob: string | null = fileName) => ({ fileName, blob });
  it('are told apart: meshes, what belongs to them, pictures', () => {
    const { request, others } = meshesAmong([file('a.glb'), file('b.gltf'), file('b.bin'), file('c.png'), file('d.obj', null)]);
    expect(request.meshes.map((m) => m.fileName)).toEqual(['a.glb', 'b.gltf']);
    expect(request.companions.map((m) => m.fileName)).toEqual(['b.bin', 'c.png']);
    expect(others.map((m) => m.fileName)).toEqual(['c.png']);
  });
  it('come once, under the name that says the use', () => {
    expect(
      withCarried([file('stone_basecolor.png', 'x'), file('bad.glb', null)], [file('t1.png', 'x'), file('t2.png', 'y')]).map((f) => f.fileName),
    ).toEqual(['stone_basecolor.png', 'bad.glb', 't2.png']);
  });
});
