import type { AnyDocument, TerrainFacts } from '@pebble/core';
import { coarserField, heightfieldOf, hillside, makeBlend, makeCue, makeImage, makeLayer, terrainTiles } from '@pebble/core';
import type { BundleReader } from '@pebble/formats/bundle';
import { openBundle, terrainsOf } from '@pebble/formats/bundle';
import { nodeCodec } from '@pebble/formats/node';
import { writeTexture } from '@pebble/formats/write';
import { createHash } from 'node:crypto';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { groundOn, layGround, terrainField } from '../ground';
import type { TileFile } from '../ground';
import { readerOf, libraryOf } from '../blends';
import { heightPicture, parseTerrain, readWeights, terrainSpecimen } from '../terrain';
import { memoryPorts } from '../testing/memory';
import { smallProject } from '../testing/project';
import { bundleAt, folderSink } from './folder';
import { deliver, planDelivery, prove } from './index';

const TARGET = { targets: ['desktop'] };
const quiet = () => undefined;

describe('a terrain in a delivery', () => {
  const ports = { ...memoryPorts(), write: writeTexture };
  const metres = { acrossM: 256, rangeM: 90, footM: 1700 };
  let all: Record<string, AnyDocument>;
  let root: string;
  const stem = 'upper_hill_hill_ground';
  const at = (file: string) => path.join(root, 'terrains', file);
  const json = async (file: string) => readFile(at(file), 'utf8');
  const decode = async (file: string) => nodeCodec.decode(new Uint8Array(await readFile(at(file))), 'data');
  const bundle = async () => openBundle(await bundleAt(root));

  beforeAll(async () => {
    root = await mkdtemp(path.join(os.tmpdir(), 'deliver-hill-'));
    all = await smallProject(ports);
    const { image } = heightPicture(hillside(129), { rangeM: 176, footM: 1720 });
    const blob = await ports.blobs.put(await nodeCodec.encode(image), 'image/png');
    const hill = await terrainSpecimen(ports, { name: 'Upper hill', heights: { blob, fileName: 'hill.png' }, ...metres }, quiet);
    const rule = (name: string, order: number, cues: object) => makeLayer('moss', name, order, { coverage: cues as never });
    const painted = makeImage({ width: 64, height: 64, channels: 1 });
    for (let i = 0; i < 64 * 64; i++) painted.data[i] = i % 64 < 20 ? 255 : 0;
    const picture = await ports.blobs.put(await nodeCodec.encode(painted), 'image/png');
    const straight = { shape: 'straight', centre: 0.5, width: 1 } as const;
    all = {
      ...all,
      hill,
      'hill-ground': makeBlend('Hill ground', {
        extentM: 4,
        specimen: 'hill',
        standsAtM: 1700,
        layers: {
          a: makeLayer('plaster', 'Clay', 1),
          b: rule('Rock', 2, { c: makeCue('slope', { centre: 25, width: 10, inverted: false }) }),
          c: rule('Grass', 3, { c: makeCue('altitude', { from: 'world', centre: 1740, width: 10 }) }),
          d: rule('Path', 4, { c: makeCue('painted', { ...straight, picture, set: 1 }) }),
          e: rule('Edge', 5, { c: makeCue('convexity', { centre: 0.05, width: 0.05 }) }),
        },
      }),
    };
    await deliver(ports, all, TARGET, await folderSink(root), quiet);
  });
  afterAll(() => rm(root, { recursive: true, force: true }));

  it('is planned file by file: heights, weights four a picture, what each means, and its tiles', () => {
    const own = planDelivery(all, TARGET).outputs.filter((o) => o.path.startsWith('terrains/'));
    expect(own.map((o) => [o.path.slice('terrains/'.length), o.kind]).sort()).toEqual([
      [`${stem}.json`, 'table'],
      [`${stem}_height.png`, 'height'],
      [`${stem}_tiles.json`, 'table'],
      [`${stem}_weights.json`, 'table'],
      [`${stem}_weights_1.png`, 'weights'],
      [`${stem}_weights_2.png`, 'weights'],
    ]);
    expect(own.every((o) => o.problem === null)).toBeTrue();
    // A blend on anything else has none.
    const { specimen, ...rest } = all['hill-ground'] as ReturnType<typeof makeBlend>;
    expect(specimen).toBe('hill');
    const moved = { ...all, 'hill-ground': { ...rest, specimen: 'patch' } as AnyDocument };
    expect(planDelivery(moved, TARGET).outputs.some((o) => o.path.startsWith('terrains/'))).toBeFalse();
  });
  it('reads back identically: heights in their metres, weights that sum to 255, tiles as they are counted', async () => {
    const facts = parseTerrain(await json(`${stem}.json`), stem);
    expect(facts).toEqual({ kind: 'terrain', version: 1, name: 'Upper hill', heights: `${stem}_height.png`, ...metres });
    const image = await decode(facts.heights);
    expect([image.depth, image.width]).toEqual([16, 129]);
    const hill = all['hill'];
    if (hill.kind !== 'specimen') throw new Error('no terrain');
    const field = await terrainField(ports, hill);
    expect(heightfieldOf(image, facts).altitude).toEqual(field.altitude);
    const { weights, names } = await readWeights(await json(`${stem}_weights.json`), stem, decode);
    expect(names).toEqual(['Clay', 'Rock', 'Grass', 'Path', 'Edge']);
    const blend = all['hill-ground'];
    if (blend.kind !== 'blend') throw new Error('no ground');
    const library = libraryOf(all);
    const again = await groundOn(ports, hill, blend, library, readerOf(ports, library), quiet);
    expect(weights).toEqual(again.weights);
    const tiles = JSON.parse(await json(`${stem}_tiles.json`)) as TileFile;
    expect(tiles.tileM).toBe(32);
    const counted = terrainTiles(weights, 16);
    expect(tiles.tiles.map((t) => [t.column, t.row, t.layers])).toEqual(counted.map((t) => [t.column, t.row, t.layers.map((l) => names[l])]));
    for (const t of tiles.tiles) expect(t.samples).toBeGreaterThan(0);
    // Of another size where the terrain says so.
    const tiled = { ...hill, terrain: { ...(hill.terrain as TerrainFacts), tiles: { sideM: 64, layers: 3 } } };
    const wide = (await groundOn(ports, tiled, blend, library, readerOf(ports, library), quiet)).tiles;
    expect([wide.tileM, wide.columns, wide.rows]).toEqual([64, tiles.columns / 2, tiles.rows / 2]);
  });
  it('lays what is painted where it was painted, and edges where the ground bends outwards', async () => {
    const { weights } = await readWeights(await json(`${stem}_weights.json`), stem, decode);
    const path_ = weights.layers[3];
    // Twenty of 64 columns were painted: samples well inside have all of it but for what lies over.
    for (let y = 4; y < 125; y += 8) {
      expect(path_[y * 129 + 20] + weights.layers[4][y * 129 + 20]).toBe(255);
      expect(path_[y * 129 + 60]).toBe(0);
    }
    expect(weights.layers[4].some((v) => v > 128)).toBeTrue();
    expect(weights.layers[4].some((v) => v === 0)).toBeTrue();
  });
  it('is read by a device, which refuses weights that do not sum up', async () => {
    expect(await terrainsOf(await bundle(), nodeCodec)).toEqual([
      { path: `terrains/${stem}_weights.json`, layers: ['Clay', 'Rock', 'Grass', 'Path', 'Edge'], width: 129, height: 129, problem: null },
    ]);
    const broken = await decode(`${stem}_weights_1.png`);
    broken.data[(5 * 129 + 7) * broken.channels] ^= 1;
    const bytes = await nodeCodec.encode(broken);
    const reader = await bundleAt(root);
    const name = `terrains/${stem}_weights_1.png`;
    const changed: BundleReader = {
      names: () => reader.names(),
      async get(file) {
        const given = await reader.get(file);
        if (file === name) return Uint8Array.from(bytes);
        if (file !== 'manifest.json' || !given) return given;
        const manifest = JSON.parse(new TextDecoder().decode(given)) as { files: { path: string; bytes: number; sha256: string }[] };
        const own = manifest.files.find((f) => f.path === name)!;
        Object.assign(own, { bytes: bytes.length, sha256: createHash('sha256').update(bytes).digest('hex') });
        return new TextEncoder().encode(JSON.stringify(manifest));
      },
    };
    const [terrain] = await terrainsOf(await openBundle(changed), nodeCodec);
    expect(terrain.problem).toMatch(/weights sum to 25[46] instead of 255 at column 8, row 6/);
    const gone: BundleReader = { ...changed, get: async (file) => (file === name ? null : reader.get(file)) };
    expect((await terrainsOf(await openBundle(gone), nodeCodec))[0].problem).toMatch(/is not there/);
  });
  it('is proved without loss, and refused where its terrain is gone', async () => {
    const proof = await prove(ports, all, await bundle(), quiet);
    const rows = proof.rows.filter((r) => r.path.startsWith('terrains/'));
    expect(rows.length).toBe(3);
    expect(rows.every((r) => r.lossless)).toBeTrue();
    const { hill, ...without } = all;
    expect(hill.kind).toBe('specimen');
    await expectAsync(prove(ports, without, await bundle(), quiet)).toBeRejectedWithError(/the project gives no such file any more/);
  });
  it('lays grounds of fields of any size, held to the samples that are stored', async () => {
    const blend = all['hill-ground'];
    if (blend.kind !== 'blend') throw new Error('no ground');
    const library = libraryOf(all);
    const { coverages, ids } = await layGround(blend, library, coarserField(hillside(300), 100), 1720, readerOf(ports, library));
    expect(ids.length).toBe(5);
    expect(Math.max(coverages.width, coverages.height)).toBeLessThanOrEqual(100);
  });
});
