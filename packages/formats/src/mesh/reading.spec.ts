import type { Part } from '@pebble/core';
import { SPECIMEN_MODELS, makeImage, makeRandom, setsOf } from '@pebble/core';
import { FormatError } from '../codec';
import { nodeCodec } from '../node';
import { withTangents } from './finish';
import { readMesh } from './files';
import { isCompanionName, isMeshName, readGltf, readObj, writeGlb } from './index';

const FAULTS = Number(process.env['PEBBLE_FAULTS'] ?? 100);
const text = (value: string): Uint8Array => new TextEncoder().encode(value);
const json = (value: object): Uint8Array => text(JSON.stringify(value));
const failing = async (work: Promise<unknown>): Promise<FormatError> => {
  const error: unknown = await work.then(
    () => null,
    (e: unknown) => e,
  );
  expect(error).toBeInstanceOf(FormatError);
  return error as FormatError;
};

/** A triangle by itself as glTF, with its numbers in a data address; parts of it are changed to break it. */
function triangle(change: (json: GltfJson) => void = () => undefined, numbers = [0, 0, 0, 1, 0, 0, 0, 0, -1]): Uint8Array {
  const bytes = new Uint8Array(Float32Array.from(numbers).buffer);
  const document: GltfJson = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0, name: 'leaf' }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 }, material: 0 }] }],
    materials: [{ name: 'Green leaf' }],
    accessors: [{ bufferView: 0, componentType: 5126, type: 'VEC3', count: 3 }],
    bufferViews: [{ buffer: 0, byteLength: 36 }],
    buffers: [{ byteLength: 36, uri: `data:application/octet-stream;base64,${Buffer.from(bytes).toString('base64')}` }],
  };
  change(document);
  return json(document);
}
// Broken on purpose, in any way.
type GltfJson = Record<string, any>;

describe('glTF', () => {
  it('keeps sets of coordinates, vertex colours, slots, levels and placements through a file', async () => {
    const [stone] = SPECIMEN_MODELS['marker-stone'](1).lods[1];
    const count = stone.mesh.position.length / 3;
    const second = Float32Array.from({ length: count * 2 }, (_, i) => (i % 97) / 97);
    const more = new Float32Array(count * 4).fill(0.25);
    const part: Part = {
      ...stone,
      sets: [stone.mesh.texcoord, second],
      moreColours: [more],
      placement: [0, 0, -1, 0, 0, 1, 0, 0, 1, 0, 0, 0, 2, 0, -3, 1],
    };
    const { model, notes } = await readGltf(await writeGlb('stone', { title: 'Stones', lods: [[part], [{ ...stone, sets: [], coloured: false }]] }));
    expect(notes.map((n) => n.code)).toEqual(['mesh-no-uv']);
    const [[near], [far]] = model.lods;
    expect(setsOf(near)).toEqual([stone.mesh.texcoord, second]);
    expect(near.moreColours).toEqual([more]);
    expect(near.placement?.map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual(part.placement?.slice());
    expect(near.mesh.position).toEqual(stone.mesh.position);
    expect([near.name, near.slot]).toEqual([stone.name, stone.slot]);
    expect(setsOf(far)).toEqual([]);
    expect(far.coloured).toBeFalse();
    expect(far.mesh.geomcolor.every((v) => v === 1)).toBeTrue();
  });
  it('makes normals and tangents where they are missing, and says so', async () => {
    const { model, notes } = await readGltf(triangle());
    const [{ mesh, name, slot }] = model.lods[0];
    expect([name, slot]).toEqual(['leaf', 'Green leaf']);
    expect([...mesh.normal]).toEqual([0, 1, 0, 0, 1, 0, 0, 1, 0]);
    expect(notes.map((n) => n.code)).toEqual(['mesh-normals-made', 'mesh-no-uv']);
    expect(notes[0].message).toMatch(/^leaf: normals were missing/);
  });
  it('makes the tangents that the specimens have by their own construction', async () => {
    for (const name of ['sphere', 'cube', 'copper-still'] as const)
      for (const { mesh } of SPECIMEN_MODELS[name](1).lods[0]) {
        const made = withTangents(mesh);
        let [worst, against] = [1, 0];
        for (let i = 0; i < made.from.length; i++) {
          const [a, b] = [made.mesh.tangent.subarray(i * 4, i * 4 + 4), mesh.tangent.subarray(made.from[i] * 4, made.from[i] * 4 + 4)];
          const along = a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
          worst = Math.min(worst, along);
          if (a[3] !== b[3]) against++;
        }
        // At rims and poles one vertex takes the mean of faces that differ.
        expect(worst).withContext(name).toBeGreaterThan(0.6);
        expect(against / made.from.length)
          .withContext(name)
          .toBeLessThan(0.01);
      }
  });
  it('reads strips and fans as the triangles that they are', async () => {
    const numbers = [0, 0, 0, 1, 0, 0, 0, 0, -1, 1, 0, -1];
    const of = (mode: number) =>
      readGltf(
        triangle((d) => {
          d['meshes'][0].primitives[0].mode = mode;
          d['accessors'][0].count = 4;
          d['bufferViews'][0].byteLength = d['buffers'][0].byteLength = 48;
        }, numbers),
      );
    for (const mode of [5, 6])
      expect((await of(mode)).model.lods[0][0].mesh.index.length)
        .withContext(`mode ${mode}`)
        .toBe(6);
    expect((await failing(of(1))).message).toMatch(/no triangles/);
  });
  it('gives the pictures of its materials under names that say slot and use, and says which did not come', async () => {
    const png = await nodeCodec.encode(makeImage({ width: 4, height: 4, channels: 3 }));
    const file = triangle((d) => {
      d['materials'][0] = {
        name: 'Green leaf',
        pbrMetallicRoughness: { baseColorTexture: { index: 0 }, metallicRoughnessTexture: { index: 1 } },
        occlusionTexture: { index: 1 },
        normalTexture: { index: 2 },
      };
      d['textures'] = [{ source: 0 }, { source: 1 }, { source: 2 }];
      d['images'] = [{ uri: `data:image/png;base64,${Buffer.from(png).toString('base64')}` }, { uri: 'maps/leaf%20orm.png' }, { uri: 'lost.png' }];
    });
    const { pictures, notes } = await readGltf(file, async (name) => (name === 'leaf orm.png' ? png : null));
    expect(pictures.map((p) => p.fileName)).toEqual(['Green_leaf_basecolor.png', 'Green_leaf_orm.png']);
    expect(pictures[0].bytes).toEqual(Uint8Array.from(png));
    expect(notes.find((n) => n.code === 'mesh-pictures')?.message).toBe('Slot Green leaf uses lost.png as normal, which did not come with the file.');
  });
  it('takes its numbers from files beside it, and names one that is missing', async () => {
    const bytes = new Uint8Array(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 0, -1).buffer);
    const file = triangle((d) => (d['buffers'][0].uri = 'leaf.bin'));
    expect((await readGltf(file, async (name) => (name === 'leaf.bin' ? bytes : null))).model.lods[0].length).toBe(1);
    const error = await failing(readGltf(file));
    expect(error.code).toBe('truncated');
    expect(error.message).toMatch(/^leaf\.bin is missing/);
    expect((await failing(readGltf(file, async () => bytes.subarray(0, 20)))).message).toMatch(/36 bytes are wanted and 20 are there/);
  });
  const broken: [string, (d: GltfJson) => void, RegExp][] = [
    ['of version 1', (d) => (d['asset'].version = '1.0'), /glTF 1\.0/],
    ['without a version', (d) => delete d['asset'], /says no version/],
    ['that needs what is not read', (d) => (d['extensionsRequired'] = ['EXT_unheard_of']), /needs EXT_unheard_of/],
    ['with nodes in a circle', (d) => (d['nodes'] = [{ children: [1] }, { children: [0], mesh: 0 }]), /its own ancestor/],
    ['with a node of two parents', (d) => (d['nodes'] = [{ children: [2] }, { children: [2] }, { mesh: 0 }]), /a child of two nodes/],
    ['with an index past its list', (d) => (d['nodes'][0].mesh = 7), /nodes\[0\]: mesh points at number 7, and there are 1/],
    ['with a negative index', (d) => (d['accessors'][0].bufferView = -1), /accessors\[0\]: bufferView is no whole number/],
    ['whose view leaves its buffer', (d) => (d['bufferViews'][0].byteOffset = 4), /bufferViews\[0\]: reaches to byte 40 of a buffer of 36/],
    ['whose accessor leaves its view', (d) => (d['accessors'][0].count = 4), /accessors\[0\]: reaches to byte 48 of a view of 36/],
    ['with more values than any mesh', (d) => (d['accessors'][0].count = 1e9), /at most/],
    [
      'whose accessors have no bytes and want many',
      (d) => (d['accessors'] = Array.from({ length: 9 }, () => ({ componentType: 5126, type: 'MAT4', count: 2_000_000 }))),
      /MiB of values; at most 1,024 are taken/,
    ],
    [
      'with many accessors over the same bytes',
      (d) => {
        d['buffers'][0].byteLength = d['bufferViews'][0].byteLength = 3_000_000;
        d['buffers'][0].uri = `data:application/octet-stream;base64,${Buffer.alloc(3_000_000).toString('base64')}`;
        d['accessors'] = Array.from({ length: 400 }, () => ({ bufferView: 0, componentType: 5126, type: 'VEC3', count: 250_000 }));
      },
      /MiB of values; at most 1,024 are taken/,
    ],
    [
      'whose compressed view unpacks to more than any mesh',
      (d) =>
        (d['bufferViews'][0].extensions = {
          EXT_meshopt_compression: { buffer: 0, byteLength: 36, byteStride: 256, count: 2 ** 24, mode: 'ATTRIBUTES' },
        }),
      /4,096 MiB of values/,
    ],
    ['of a kind that does not exist', (d) => (d['accessors'][0].type = 'VEC7'), /type VEC7 does not exist/],
    ['whose lists are none', (d) => (d['meshes'] = { a: 1 }), /meshes: is no list/],
    [
      'with attributes of unequal counts',
      (d) => {
        d['accessors'].push({ bufferView: 0, componentType: 5126, type: 'VEC3', count: 2 });
        d['meshes'][0].primitives[0].attributes.NORMAL = 1;
      },
      /NORMAL has 2 values and others have 3/,
    ],
    ['with a data address that is no base64', (d) => (d['buffers'][0].uri = 'data:application/octet-stream;base64,§§'), /base64 cannot be read/],
    ['without anything in it', (d) => (d['nodes'] = [{}]), /no triangles/],
  ];
  for (const [what, change, message] of broken)
    it(`${what} is refused with its place`, async () => expect((await failing(readGltf(triangle(change)))).message).toMatch(message));
  it('refuses what the format does not allow, by its place', async () => {
    const words = Uint16Array.of(0, 1, 2, 0);
    const withIndices = (d: GltfJson, componentType: number, type = 'SCALAR') => {
      d['accessors'].push({ bufferView: 1, componentType, type, count: 2 });
      d['bufferViews'].push({ buffer: 1, byteLength: 8 });
      d['buffers'].push({ byteLength: 8, uri: `data:application/octet-stream;base64,${Buffer.from(words.buffer).toString('base64')}` });
      d['meshes'][0].primitives[0].indices = 1;
    };
    const sparse = (d: GltfJson, ...at: [number, number]) => {
      const bytes = Buffer.from(Uint8Array.from([...at, 0, 0, ...new Uint8Array(Float32Array.of(0, 0, 0, 1, 1, 1).buffer)]).buffer);
      d['bufferViews'].push({ buffer: 1, byteLength: 28 });
      d['buffers'].push({ byteLength: 28, uri: `data:application/octet-stream;base64,${bytes.toString('base64')}` });
      d['accessors'][0].sparse = {
        count: 2,
        indices: { bufferView: 1, byteOffset: 0, componentType: 5121 },
        values: { bufferView: 1, byteOffset: 4 },
      };
    };
    for (const [change, what] of [
      [(d) => withIndices(d, 5126), /accessors\[1\]: holds indices .* whole numbers/],
      [(d) => withIndices(d, 5123, 'VEC2'), /accessors\[1\]: holds indices/],
      [(d) => (d['bufferViews'][0].byteStride = 1), /bufferViews\[0\]: byteStride is 1, and accessors\[0\] has values of 12 bytes/],
      [(d) => (d['nodes'][0].scale = [1, null, 1]), /nodes\[0\]: scale is no list of 3 numbers/],
      [(d) => (d['nodes'][0].scale = null), /nodes\[0\]: scale/],
      [(d) => (d['nodes'][0].matrix = [1, 0, 0]), /nodes\[0\]: matrix is no list of 16 numbers/],
      [(d) => (d['accessors'][0].type = 'VEC2'), /POSITION is VEC2, not VEC3/],
      [(d) => sparse(d, 1, 7), /sparse\.indices: number 1 points at value 7, and there are 3/],
      [(d) => sparse(d, 2, 1), /sparse\.indices: number 1 is 1 and does not rise/],
    ] as [(d: GltfJson) => void, RegExp][])
      expect((await failing(readGltf(triangle(change)))).message).toMatch(what);
    // What is allowed of the same stays so.
    expect((await readGltf(triangle((d) => sparse(d, 1, 2)))).model.lods[0].length).toBe(1);
  });
  it('refuses a mesh that stands in more places than parts are read, before it is made once', async () => {
    const crowd = triangle((d) => {
      d['nodes'] = Array.from({ length: 50_000 }, () => ({ mesh: 0 }));
      d['scenes'][0].nodes = d['nodes'].map((_: unknown, i: number) => i);
    });
    expect((await failing(readGltf(crowd))).message).toMatch(/50,000 parts/);
  });
  it('refuses JSON that nests without end, and faces of more corners than anything has', async () => {
    const deep = text(`{"asset":{"version":"2.0"},"extras":${'['.repeat(200_000)}${']'.repeat(200_000)}}`);
    expect((await failing(readGltf(deep))).message).toMatch(/nests more than 200 deep/);
    const round = Array.from({ length: 900_000 }, (_, i) => `v ${i} 0 0`).join('\n');
    const face = `f ${Array.from({ length: 900_000 }, (_, i) => i + 1).join(' ')}`;
    await expectAsync((async () => readObj(text(`${round}\n${face}`)))()).toBeRejectedWithError(
      FormatError,
      /a face has 900,000 corners; at most 4,096/,
    );
  });
  it('names vertex and byte of a position that is no number', async () => {
    const file = await writeGlb('cube', SPECIMEN_MODELS.cube(1));
    const view = new DataView(file.buffer, file.byteOffset);
    const at = view.getUint32(12, true) + 28;
    const { bufferViews, accessors, meshes } = JSON.parse(new TextDecoder().decode(file.subarray(20, at - 8))) as GltfJson;
    const accessor = accessors[meshes[0].primitives[0].attributes.POSITION];
    const stride = bufferViews[accessor.bufferView].byteStride ?? 12;
    const byte = at + (bufferViews[accessor.bufferView].byteOffset ?? 0) + (accessor.byteOffset ?? 0) + 17 * stride;
    view.setFloat32(byte + 4, NaN, true);
    const error = await failing(readGltf(file));
    expect(error.message).toMatch(/part body: the position of vertex 17 is not a number/);
    expect(error.byte).toBe(byte);
  });
  it('repairs normals without direction and coordinates that are no numbers, and says so', async () => {
    const file = await writeGlb('cube', SPECIMEN_MODELS.cube(1));
    const { model } = await readGltf(file);
    const [part] = model.lods[0];
    part.mesh.normal.fill(0, 0, 3);
    part.mesh.texcoord[3] = NaN;
    const { notes, model: back } = await readGltf(await writeGlb('cube', model));
    expect(notes.map((n) => n.message)).toEqual([
      'body: the normal of vertex 0 has no direction; all normals were made anew.',
      'body: 1 numbers of its texture coordinates are none and were set to 0.',
    ]);
    expect(back.lods[0][0].mesh.texcoord.every(Number.isFinite)).toBeTrue();
  });
});

const SQUARE = 'v 0 0 0\nv 1 0 0\nv 1 0 -1\nv 0 0 -1\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvn 0 1 0\n';

describe('OBJ', () => {
  const read = (body: string) => readObj(text(body)).model.lods[0];
  it('keeps objects, slots, coordinates and normals; v is turned to run down', () => {
    const [part] = read(`${SQUARE}o step\nusemtl Wet stone\nf 1/1/1 2/2/1 3/3/1 4/4/1\n`);
    expect([part.name, part.slot, part.mesh.index.length]).toEqual(['step', 'Wet stone', 6]);
    const at = (x: number, z: number) => [0, 1, 2, 3].find((i) => part.mesh.position[i * 3] === x && part.mesh.position[i * 3 + 2] === z) ?? -1;
    const uv = (i: number) => [...part.mesh.texcoord.subarray(i * 2, i * 2 + 2)];
    expect([uv(at(0, 0)), uv(at(1, -1))]).toEqual([
      [0, 1],
      [1, 0],
    ]);
    expect([...part.mesh.normal.subarray(0, 3)]).toEqual([0, 1, 0]);
    expect(part.mesh.tangent[3]).toBe(1);
    expect([...part.mesh.tangent.subarray(0, 3)].map(Math.round)).toEqual([1, 0, 0]);
  });
  it('reads indices from the end, lines that are carried on, comments, and vertex colours', () => {
    const [part] = read('v 0 0 0 1 0 0\nv 1 0 0 0 1 0 # green\nv 0 0 -1 0 0 1\nf -3 \\\n -2 -1\n');
    expect(part.coloured).toBeTrue();
    expect([...part.mesh.geomcolor.subarray(0, 8)]).toEqual([1, 0, 0, 1, 0, 1, 0, 1]);
    expect(setsOf(part)).toEqual([]);
  });
  it('cuts concave faces without leaving them', () => {
    // An L of area 3: a fan from its first corner would cover 4.
    const [part] = read('v 0 0 0\nv 0 0 -2\nv 1 0 -2\nv 1 0 -1\nv 2 0 -1\nv 2 0 0\nf 6 5 4 3 2 1\n');
    const { position, index } = part.mesh;
    let area = 0;
    for (let k = 0; k < index.length; k += 3) {
      const [a, b, c] = [0, 1, 2].map((j) => position.subarray(index[k + j] * 3, index[k + j] * 3 + 3));
      area += ((b[2] - a[2]) * (c[0] - a[0]) - (b[0] - a[0]) * (c[2] - a[2])) / 2;
    }
    expect(index.length).toBe(12);
    expect(Math.abs(area)).toBeCloseTo(3, 6);
  });
  it('tells levels by name and keeps slots of one object apart', () => {
    const { lods } = readObj(text(`${SQUARE}o step_LOD0\nusemtl a\nf 1 2 3\nusemtl b\nf 1 3 4\no step_LOD1\nusemtl a\nf 1 2 4\n`)).model;
    expect(lods.map((l) => l.map((p) => `${p.name}/${p.slot}`))).toEqual([['step/a', 'step/b'], ['step/a']]);
  });
  it('is read in UTF-16 of either order, with or without a mark', () => {
    const body = 'v 0 0 0\nv 1 0 0\nv 0 0 -1\nf 1 2 3\n';
    for (const [little, mark] of [
      [true, true],
      [false, true],
      [true, false],
      [false, false],
    ] as const) {
      const codes = [...(mark ? '\ufeff' : ''), ...body].map((c) => c.charCodeAt(0));
      const bytes = new Uint8Array(codes.length * 2);
      codes.forEach((c, i) => new DataView(bytes.buffer).setUint16(i * 2, c, little));
      expect(readObj(bytes).model.lods[0][0].mesh.index.length).toBe(3);
    }
  });
  const broken: [string, string, RegExp][] = [
    ['a position that is no number', 'v 0 0 0\nv 1 nan 0\n', /line 2: a position is “nan”, not a number/],
    ['a face past the vertices', `${SQUARE}f 1 2 9\n`, /line 10: a face uses vertex “9”, and there are 4 so far/],
    ['a face of two corners', `${SQUARE}f 1 2\n`, /a face has 2 corners/],
    ['no faces', SQUARE, /no faces/],
    ['zero bytes', 'v 0 0 0\n\0\0', /zero bytes/],
    ['nothing', '', /empty/],
  ];
  for (const [what, body, message] of broken)
    it(`with ${what} is refused with line and byte`, () =>
      expect(() => readObj(text(body))).toThrowMatching((e) => e instanceof FormatError && message.test(e.message)));
});

describe('mesh files', () => {
  it('are known by their names', async () => {
    expect(['a.GLB', 'b.gltf', 'c.obj', 'd.png'].map(isMeshName)).toEqual([true, true, true, false]);
    expect(['a.bin', 'b.mtl', 'c.obj'].map(isCompanionName)).toEqual([true, true, false]);
    expect((await failing(readMesh('a.png', text('x')))).code).toBe('unknown-format');
  });
  it(`with ${FAULTS} seeded faults each end in a typed error or a mesh`, async () => {
    const samples: Record<string, Uint8Array> = {
      'a.glb': await writeGlb('stone', { title: '', lods: [SPECIMEN_MODELS['marker-stone'](1).lods[1]] }),
      'a.gltf': triangle(),
      'a.obj': text(`${SQUARE}o a\nusemtl s\nf 1/1/1 2/2/1 3/3/1 4/4/1\n`),
    };
    for (const [name, file] of Object.entries(samples)) {
      const random = makeRandom(file.length);
      for (let k = 0; k < FAULTS; k++) {
        const broken = k % 5 ? file.slice() : file.slice(0, Math.floor(random() * file.length));
        for (let f = 0; f < 1 + (k % 4) && broken.length; f++)
          broken[Math.floor(random() * (random() < 0.6 ? Math.min(2500, broken.length) : broken.length))] ^= 1 << Math.floor(random() * 8);
        const outcome: unknown = await readMesh(name, broken).catch((e: unknown) => e);
        if (outcome instanceof Error) expect(outcome).withContext(`${name}, fault ${k}: ${outcome.stack}`).toBeInstanceOf(FormatError);
      }
    }
  }, 1_800_000);
});
