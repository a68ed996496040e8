import type { AnyDocument, BlendRole, Image, RecipeDocument, Role, SurfaceDocument } from '@pebble/core';
import { BLEND_ROLES, makeAsset, blendMaterial, generateSurface, makeBlend, makeCue, makeImage, makeLayer, makeRandom } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { BandPool } from './bands';
import type { Ports } from './index';
import { memoryPorts } from './testing/memory';
import {
  asRole,
  blendSurface,
  evaluateBlendDocument,
  ingredients,
  evaluateSquare,
  flipGreen,
  generateSurfaceDocument,
  importSurface,
  loadMaps,
  packRecipe,
  planRecipe,
  stackOf,
  storeStagePixels,
  unpackMaps,
} from './index';

const quiet = () => undefined;
const grey = (width: number, value: number, channels = 1) =>
  makeImage({ width, height: width, channels, data: new Uint8Array(width * width * channels).fill(value) });

describe('making surfaces', () => {
  it('draws a document whose maps read back exactly', async () => {
    const ports = memoryPorts();
    const doc = await generateSurfaceDocument(ports, { name: 'laterite-clay', seed: 4, size: 32 }, quiet);
    const made = generateSurface('laterite-clay', { seed: 4, size: 32 });
    const maps = await loadMaps(ports, doc, BLEND_ROLES);
    for (const role of BLEND_ROLES)
      expect([...maps[role]!.data])
        .withContext(role)
        .toEqual([...made.maps[role].data]);
    expect(doc.generator).toEqual({ name: 'laterite-clay', seed: 4 });
    expect(ports.kept.has(doc.thumbnail!)).toBeTrue();
  });
  it('keeps pixels for the stage, and coarse ones where these are fewer: means of what they cover, as linear light', async () => {
    const ports = memoryPorts();
    const next = makeRandom(7);
    const noise = (width: number, height: number, colourSpace: 'srgb' | 'data', depth: 8 | 16 = 8) => {
      const data = depth === 8 ? new Uint8Array(width * height) : new Uint16Array(width * height);
      return makeImage({ width, height, channels: 1, depth, colourSpace, data: data.map(() => next() * 2 ** depth) });
    };
    const tall = noise(512, 1024, 'data', 16);
    const { coarse, ...stage } = await storeStagePixels(tall, ports.blobs);
    expect(stage).toEqual({ blob: stage.blob, width: 512, height: 1024, channels: 1, depth: 16 });
    expect([coarse?.width, coarse?.height]).toEqual([128, 256]);
    const kept = new Uint16Array((await ports.blobs.get(coarse!.blob)).slice().buffer);
    for (const [x, y] of [
      [0, 0],
      [77, 201],
      [127, 255],
    ]) {
      let sum = 0;
      for (let j = 0; j < 4; j++) for (let i = 0; i < 4; i++) sum += tall.data[(y * 4 + j) * 512 + x * 4 + i];
      expect(kept[y * 128 + x]).toBe(Math.round(sum / 16));
    }
    // Black and white in turn are half the light, which is written as 188.
    const stripes = makeImage({
      width: 512,
      height: 512,
      channels: 1,
      colourSpace: 'srgb',
      data: new Uint8Array(512 * 512).map((_, i) => (i & 1) * 255),
    });
    const colour = await storeStagePixels(stripes, ports.blobs);
    expect([...new Set(await ports.blobs.get(colour.coarse!.blob))]).toEqual([188]);
    // What is small is there at once anyway.
    expect((await storeStagePixels(noise(256, 100, 'data'), ports.blobs)).coarse).toBeUndefined();
  });
  it('takes one channel of grey files, three of colours, and turns Y− over', () => {
    expect(asRole(grey(2, 7, 3), 'roughness', null).channels).toBe(1);
    expect(asRole(grey(2, 7), 'baseColor', null).channels).toBe(3);
    const normal = makeImage({ width: 1, height: 1, channels: 3, data: Uint8Array.of(10, 20, 250) });
    expect([...asRole(normal, 'normal', 'y-').data]).toEqual([10, 235, 250]);
    expect([...flipGreen(flipGreen(normal)).data]).toEqual([10, 20, 250]);
    expect([...normal.data]).toEqual([10, 20, 250]);
  });
  it('notes packed channels in a grey role and refuses a role given twice', async () => {
    const ports = memoryPorts();
    const next = makeRandom(3);
    const packed = makeImage({ width: 32, height: 32, channels: 3, data: Uint8Array.from({ length: 32 * 32 * 3 }, () => next() * 256) });
    const put = async (image: Image) => ports.blobs.put(await nodeCodec.encode(image), 'image/png');
    const file = { blob: await put(packed), fileName: 'w_rough.png', role: 'roughness' as const, normalDirection: 'y+' as const };
    const doc = await importSurface(ports, { name: 'Wall', sizeM: 1, reliefM: 0.01, maps: [file] }, quiet);
    expect(doc.maps.roughness?.findings?.[0].message).toBe(
      'It is taken for roughness, the content looks like several maps packed into channels. Which is it?',
    );
    await expectAsync(
      importSurface(ports, { name: 'Wall', sizeM: 1, reliefM: 0.01, maps: [file, { ...file, fileName: 'other.png' }] }, quiet),
    ).toBeRejectedWithError(/both taken for roughness/);
  });
});

describe('blends and bands', () => {
  const stone = generateSurface('terrace-stone', { seed: 1, size: 64 });
  const moss = generateSurface('cushion-moss', { seed: 2, size: 64 });
  const document = (name: string): SurfaceDocument => ({
    kind: 'surface',
    version: 1,
    name,
    sizeM: 2.4,
    reliefM: 0.05,
    mid: 0.5,
    maps: Object.fromEntries(BLEND_ROLES.map((r) => [r, {}])) as never,
    thumbnail: null,
    tone: '#808080',
    generator: null,
    notes: [],
  });
  const blend = makeBlend('Step', {
    layers: {
      a: makeLayer('stone', 'Stone', 1),
      b: makeLayer('moss', 'Moss', 2, { coverage: { v: makeCue('vertexColour', { channel: 'g' }), n: makeCue('noise', { order: 2 }) } }),
    },
  });
  const surfaces = { stone: document('Stone'), moss: document('Moss') };
  it('evaluate to the same bytes on one thread and on two', async () => {
    const worker = path.resolve(import.meta.dirname, '../../../dist/node/band-worker.mjs');
    if (!existsSync(worker)) return fail('dist/node/band-worker.mjs is not built');
    const material = blendMaterial(stackOf(blend, { surfaces }));
    const from = ingredients([stone.maps, moss.maps]);
    const here = await evaluateSquare({}, { material, on: null }, from, 96, BLEND_ROLES as readonly BlendRole[], quiet);
    const pool = new BandPool(worker, 2);
    const told: number[] = [];
    const there = await pool.evaluate(material, from, 96, BLEND_ROLES as readonly BlendRole[], (done) => told.push(done));
    expect(told.length).toBe(16);
    const stop = () => {
      throw new Error('stopped');
    };
    await expectAsync(pool.evaluate(material, from, 96, ['roughness'], stop)).toBeRejectedWithError('stopped');
    const order = { name: 'roof-tile', seed: 3, size: 80, amounts: { moss: 2 } } as const;
    const drawn = await pool.generate(order, quiet);
    const wanted = generateSurface('roof-tile', order);
    for (const role of BLEND_ROLES)
      expect([...drawn.maps[role].data])
        .withContext(`drawn ${role}`)
        .toEqual([...wanted.maps[role].data]);
    await expectAsync(pool.generate({ ...order, amounts: { mos: 1 } }, quiet)).toBeRejectedWithError(/no structure called mos/);
    await pool.close();
    for (const role of BLEND_ROLES)
      expect([...there[role]!.data])
        .withContext(role)
        .toEqual([...here[role]!.data]);
  });
  it('say which layer has lost its surface, and that an empty blend is empty', () => {
    expect(() => stackOf(blend, { surfaces: { stone: surfaces.stone } })).toThrowError(/Moss: its surface no longer exists/);
    expect(() => stackOf({ ...blend, layers: {} }, { surfaces })).toThrowError(/no layer that is switched on/);
    expect(blendSurface(surfaces.stone).roles.has('height')).toBeTrue();
  });
  it('load the maps that are read and no others', async () => {
    const ports = memoryPorts();
    const docs = {
      stone: await generateSurfaceDocument(ports, { name: 'terrace-stone', seed: 1, size: 32 }, quiet),
      moss: await generateSurfaceDocument(ports, { name: 'cushion-moss', seed: 2, size: 32 }, quiet),
    };
    const asked: string[] = [];
    const counting: Ports = {
      ...ports,
      blobs: {
        ...ports.blobs,
        get: (hash) => {
          asked.push(hash);
          return ports.blobs.get(hash);
        },
      },
    };
    const { maps } = await evaluateBlendDocument(counting, blend, { surfaces: docs }, { size: 32, roles: ['roughness'] }, quiet);
    expect(Object.keys(maps)).toEqual(['roughness']);
    expect(asked.length).toBe(4);
  });
});

describe('recipes', () => {
  const recipe = (over: Partial<RecipeDocument> = {}): RecipeDocument => ({
    kind: 'recipe',
    version: 1,
    name: 'R',
    template: '{set}_{file}',
    size: 8,
    sources: { s: { order: 1 } },
    files: {
      f: {
        order: 1,
        label: 'or',
        depth: 8,
        channels: {
          r: { from: 'map', role: 'occlusion', channel: 0, invert: false },
          g: { from: 'map', role: 'roughness', channel: 0, invert: false },
        },
      },
    },
    ...over,
  });
  const bare: AnyDocument = {
    kind: 'surface',
    version: 1,
    name: 'Old wall',
    sizeM: 1,
    reliefM: 0,
    mid: 0.5,
    maps: { occlusion: { width: 8, height: 8 } as never },
    thumbnail: null,
    tone: '#808080',
    generator: null,
    notes: [],
  };
  it('list every file with what is wrong before anything starts', () => {
    expect(planRecipe(recipe(), { s: bare })[0]).toEqual(
      jasmine.objectContaining({
        name: 'old_wall_or.png',
        rawBytes: 192,
        problem: null,
        note: 'Old wall has no roughness map: the neutral value stands there',
      }),
    );
    // What is not square leaves in its shape, its longer side as long as the recipe says.
    const shapes = (
      [
        [16, 8],
        [3, 9],
        [1000, 1],
      ] as const
    ).map(([width, height]) => {
      const shaped = { ...bare, maps: { occlusion: { width, height } as never } };
      const [file] = planRecipe(recipe(), { s: shaped });
      return [file.width, file.height, file.rawBytes];
    });
    expect(shapes).toEqual([
      [8, 4, 96],
      [3, 8, 72],
      [8, 1, 24],
    ]);
    expect(planRecipe(recipe({ template: '../{set}' }), { s: bare })[0].problem).toContain('slash');
    const two = recipe({
      template: '{set}',
      files: {
        f: { order: 1, label: 'a', depth: 8, channels: { r: { from: 'constant', value: 1 } } },
        g: { order: 2, label: 'b', depth: 8, channels: { r: { from: 'constant', value: 0 } } },
      },
    });
    expect(planRecipe(two, { s: bare }).map((f) => f.problem)).toEqual([
      jasmine.stringContaining('two files'),
      jasmine.stringContaining('two files'),
    ] as never);
    const empty = makeBlend('Empty');
    expect(planRecipe(recipe(), { s: empty })[0].problem).toContain('no layer that is switched on');
    expect(planRecipe(recipe(), {})).toEqual([]);
  });
  it('are named by the recipe: project, target, code and pixels among the tokens, and what is no token refused', () => {
    const rough = { r: { from: 'map', role: 'roughness', channel: 0, invert: false } } as const;
    const project = { kind: 'project', version: 1, name: 'Orrin Ridge', exportNormal: 'y+', exportSize: 1024, target: 'handheld' } as const;
    const named = (over: Partial<RecipeDocument>) =>
      planRecipe(recipe({ files: { f: { order: 1, label: 'Rough one', depth: 8, channels: rough } }, ...over }), { s: bare, p: project })[0];
    expect(named({ template: '{project}_{set}_{code}_{width}x{height}_{target}' }).name).toMatch(/^orrin_ridge_old_wall_R_\d+x\d+_handheld\.png$/);
    expect(named({ template: '{set}-{file}', case: 'pascal' }).name).toBe('OldWall-RoughOne.png');
    expect(named({ template: '{set}_{code}', codes: { roughness: 'RGH' } }).name).toBe('old_wall_RGH.png');
    expect(named({ template: '{set}_{map}_{version}' }).name).toBe('old_wall_roughness_v1.png');
    expect(named({ template: '{set}_{version}', edition: '2026-11' }).name).toBe('old_wall_2026-11.png');
    expect(named({ template: '{set}_{colour}' }).problem).toMatch(/\{colour\} is not a token; use \{project\}, \{set\}/);
  });
  it('are named by who wears what they hold, where that is one, and by the tile; a token that stands for nothing leaves no gap', () => {
    const rough = { r: { from: 'map', role: 'roughness', channel: 0, invert: false } } as const;
    const two = { ...rough, g: { from: 'map', role: 'occlusion', channel: 0, invert: false } } as const;
    const files = { f: { order: 1, label: 'a', depth: 8 as const, channels: two } };
    const named = (template: string, documents: Record<string, AnyDocument>) =>
      planRecipe(recipe({ files, template }), { s: bare, ...documents })[0].name;
    const cart = makeAsset('Ox cart', 'cart', ['body', 'wheels'], (slot) => (slot === 'body' ? 's' : 'other'));
    const everywhere = '{asset}_{slot}-{set}_{map}.{tile}';
    expect(named(everywhere, { cart })).toBe('ox_cart_body-old_wall_RO.png');
    expect(named(everywhere, { cart, second: { ...cart, name: 'Second cart' } })).toBe('body-old_wall_RO.png');
    expect(named(everywhere, {})).toBe('old_wall_RO.png');
    expect(planRecipe(recipe({ files, template: everywhere }), { s: { ...bare, name: 'Old wall 1002' } })[0].name).toBe('old_wall_1002_RO.1002.png');
  });
  it('refuse to start with a bad plan, naming the file', async () => {
    const rough = { r: { from: 'map', role: 'roughness', channel: 0, invert: false } } as const;
    const nothing = recipe({ files: { f: { order: 1, label: 'or', depth: 8, channels: rough } } });
    const run = packRecipe(memoryPorts(), nothing, { s: bare }, 'y+', new Set(), quiet);
    await expectAsync(run.next()).toBeRejectedWithError(/old_wall_or.png: Old wall has no roughness map, and nothing else is routed/);
    await expectAsync(packRecipe(memoryPorts(), recipe({ sources: {} }), {}, 'y+', new Set(), quiet).next()).toBeRejectedWithError(/no file to pack/);
  });
  it('give a file of four channels back byte for byte: colours and what alpha holds, normals of either way', async () => {
    const random = makeRandom(12);
    const rgba = (colourSpace: 'srgb' | 'data') =>
      makeImage({ width: 24, height: 16, channels: 4, colourSpace, data: new Uint8Array(24 * 16 * 4).map(() => random() * 256) });
    const alphaOf = { channel: { order: 1, kind: 'channel' as const, on: true, values: { index: 3 } } };
    const from = (role: Role, channel: 0 | 1 | 2 = 0) => ({ from: 'map' as const, role, channel, invert: false });
    for (const [role, beside, direction] of [
      ['baseColor', 'roughness', 'y+'],
      ['emissive', 'opacity', 'y+'],
      ['normal', 'metallic', 'y-'],
      ['normal', 'height', 'y+'],
    ] as const) {
      const ports = memoryPorts();
      const file = rgba(role === 'normal' ? 'data' : 'srgb');
      const blob = await ports.blobs.put(await nodeCodec.encode(file), 'image/png');
      const base = { blob, fileName: 'cart.png', normalDirection: direction };
      const surface = await importSurface(
        ports,
        {
          name: 'Cart',
          sizeM: 1,
          reliefM: 0.05,
          maps: [
            { ...base, role },
            { ...base, role: beside, steps: alphaOf },
          ],
        },
        quiet,
      );
      // The file is kept once; what alpha holds says that it is made of it.
      expect([surface.maps[role]?.blob, surface.maps[beside]?.made?.source]).toEqual([blob, jasmine.objectContaining({ blob })]);
      const again = recipe({
        size: 24,
        sources: { s: { order: 1 } },
        files: { f: { order: 1, label: 'f', depth: 8, channels: { r: from(role, 0), g: from(role, 1), b: from(role, 2), a: from(beside) } } },
      });
      for await (const { content } of packRecipe(ports, again, { s: surface }, direction, new Set(), quiet)) {
        const parts: Uint8Array[] = [];
        for await (const part of content() as AsyncIterable<Uint8Array>) parts.push(part);
        const read = await nodeCodec.decode(Buffer.concat(parts), file.colourSpace);
        expect([read.width, read.height, read.channels]).toEqual([24, 16, 4]);
        expect(Buffer.compare(Buffer.from(read.data.buffer, read.data.byteOffset, read.data.byteLength), Buffer.from(file.data.buffer)))
          .withContext(`${role} with ${beside}`)
          .toBe(0);
      }
    }
  });
  it('unpack what was packed, inversions and whole colours included', () => {
    const packed = makeImage({ width: 1, height: 1, channels: 4, data: Uint8Array.of(10, 20, 30, 40) });
    const from = (role: 'baseColor' | 'roughness', channel: 0 | 1 | 2, invert = false) => ({ from: 'map' as const, role, channel, invert });
    const maps = unpackMaps(packed, { r: from('baseColor', 0), g: from('baseColor', 1), b: from('baseColor', 2), a: from('roughness', 0, true) });
    expect([...maps.baseColor!.data]).toEqual([10, 20, 30]);
    expect([...maps.roughness!.data]).toEqual([215]);
    expect(() => unpackMaps(grey(1, 1), { g: from('roughness', 0) })).toThrowError(/no g/);
  });
});
