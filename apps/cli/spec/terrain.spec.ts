import type { Cue } from '@pebble/core';
import { makeBlend, makeCue, makeImage, makeLayer } from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { writeTiff } from '../../../packages/formats/src/testing/writers';
import { UsageError } from '../src/commands';
import { onLine } from './on-line';

interface Table {
  layers: { name: string; file: string; channel: string }[];
}

describe('terrains on the command line', () => {
  let dir: string;
  const { printed, jaunty, problem } = onLine(() => dir);
  const at = (file: string) => path.join(dir, file);
  const json = async <T>(file: string) => JSON.parse(await readFile(at(file), 'utf8')) as T;
  const rule = (name: string, order: number, cue: Cue) =>
    makeLayer({ kind: 'constant', baseColor: '#808080', roughness: 0.5, metallic: 0, heightM: 0 }, name, order, { coverage: { c: cue } });
  const ground = (more = 0) =>
    makeBlend('Ground', {
      extentM: 4,
      standsAtM: 1720,
      layers: {
        clay: { ...rule('Clay', 1, makeCue('constant', { value: 1 })), coverage: {} },
        grass: rule('Grass', 2, makeCue('altitude', { from: 'world', centre: 1800, width: 30 })),
        rock: rule('Rock', 3, makeCue('slope', { centre: 28, width: 8 })),
        moss: rule('Moss', 4, makeCue('noise', { sizeM: 2, centre: 0.6, width: 0.2, seed: 4 })),
        scree: rule('Scree', 5, makeCue('noise', { sizeM: 1, centre: 0.7, width: 0.2, seed: 9 })),
        ...Object.fromEntries(
          Array.from({ length: more }, (_, i) => [`m${i}`, rule(`More ${i}`, 6 + i, makeCue('slope', { centre: 40 + i, width: 1 }))]),
        ),
      },
    });
  beforeAll(async () => {
    dir = await mkdtemp(path.join(os.tmpdir(), 'pebble-cli-terrain-'));
    await writeFile(at('ground.json'), JSON.stringify(ground()));
    await jaunty('terrain', 'generate', '--samples', '257', '--rows', '193', '--out', 'hill.terrain.json');
    await jaunty('terrain', 'weights', 'hill.terrain.json', '--doc', 'ground.json', '--out', 'weights');
  });
  afterAll(() => rm(dir, { recursive: true }));

  it('are generated as 16-bit heights and what they mean, and come as a mesh in metres', async () => {
    await jaunty('terrain', 'generate', '--samples', '257', '--rows', '193', '--out', 'again.terrain.json');
    expect(printed.at(-1)).toMatch(/^257 × 193 samples every 200\.0 cm; altitudes 17\d\d\.\d m to 18\d\d\.\d m, slopes \d+\.\d° to [4-8]\d\.\d°$/);
    expect(await readFile(at('again.png'))).toEqual(await readFile(at('hill.png')));
    const facts = await json<{ acrossM: number; rangeM: number; footM: number }>('hill.terrain.json');
    expect([facts.acrossM, facts.footM]).toEqual([512, 1720]);
    const { width, height, depth } = await sharp(at('hill.png')).metadata();
    expect([width, height, depth]).toEqual([257, 193, 'ushort']);
    await jaunty('terrain', 'mesh', 'hill.terrain.json', '--step', '4', '--out', 'hill.glb');
    const { model } = await readGltf(new Uint8Array(await readFile(at('hill.glb'))));
    const [part] = model.lods[0];
    expect(part.slot).toBe('ground');
    const across = part.mesh.position.filter((_, i) => i % 3 === 0);
    expect([Math.min(...across), Math.max(...across)]).toEqual([-256, 256]);
  });
  it('are brought in from pictures of every depth and from raw heights, each with what has to be known of it', async () => {
    const ramp = (n: number) => Array.from({ length: 33 * 33 }, (_, i) => Math.round(((i % 33) / 32) * n));
    await writeFile(
      at('deep.png'),
      await nodeCodec.encode(makeImage({ width: 33, height: 33, channels: 1, depth: 16, data: Uint16Array.from(ramp(65535)) })),
    );
    await writeFile(
      at('eight.png'),
      await nodeCodec.encode(makeImage({ width: 33, height: 33, channels: 1, depth: 8, data: Uint8Array.from(ramp(255)) })),
    );
    await writeFile(at('heights.r16'), new Uint8Array(Uint16Array.from(ramp(65535)).buffer));
    const take = (file: string, out: string) => jaunty('terrain', 'import', file, '--across', '64', '--range', '32', '--foot', '100', '--out', out);
    await take('deep.png', 'deep.terrain.json');
    // 32 m over 64 m.
    expect(printed).toEqual(['33 × 33 samples every 200.0 cm; altitudes 100.0 m to 132.0 m, slopes 26.6° to 26.6°']);
    await take('heights.r16', 'raw.terrain.json');
    expect(await readFile(at('raw.png'))).toEqual(await readFile(at('deep.terrain.json').replace('.terrain.json', '.png')));
    printed.length = 0;
    await take('eight.png', 'eight.terrain.json');
    expect(printed[0]).toMatch(/^warning: It has 8 bits, 33 steps of 13 cm/);
    // Floats are metres times the range: what lies beyond black and white is kept.
    const floats = Array.from({ length: 25 }, (_, i) => (i % 5) / 2 - 0.5);
    await writeFile(at('float.tif'), writeTiff({ width: 5, height: 5, channels: 1, data: floats }, 32));
    await take('float.tif', 'float.terrain.json');
    expect(printed.at(-1)).toBe('5 × 5 samples every 1600.0 cm; altitudes 84.0 m to 148.0 m, slopes 45.0° to 45.0°');
    expect(await json('float.terrain.json')).toEqual(jasmine.objectContaining({ footM: 84, rangeM: 64 }));
    await expectAsync(jaunty('terrain', 'import', 'nowhere.png', '--across', '1', '--range', '1', '--out', 'x.terrain.json')).toBeRejectedWithError(
      /nowhere\.png cannot be read/,
    );
    expect(await problem('terrain', 'import', 'deep.png', '--across', '0', '--range', '1', '--out', 'x.terrain.json')).toBeInstanceOf(UsageError);
    expect(await problem('terrain', 'import', 'deep.png', '--across', '5', '--range', '1', '--out', 'x.json')).toMatch(/ends in \.terrain\.json/);
  });
  it('are covered by the sentences of a ground: four layers a picture, a table beside them, 255 in every sample', async () => {
    expect((await readdir(at('weights'))).sort()).toEqual(['weights.json', 'weights_1.png', 'weights_2.png']);
    const { layers } = await json<Table>('weights/weights.json');
    expect(layers.map((l) => `${l.name} ${l.file} ${l.channel}`)).toEqual([
      'Clay weights_1.png r',
      'Grass weights_1.png g',
      'Rock weights_1.png b',
      'Moss weights_1.png a',
      'Scree weights_2.png r',
    ]);
    const [first, second] = await Promise.all(
      ['weights_1.png', 'weights_2.png'].map(async (f) =>
        sharp(at(`weights/${f}`))
          .raw()
          .toBuffer(),
      ),
    );
    for (let i = 0; i < 257 * 193; i++) {
      const sum = first[i * 4] + first[i * 4 + 1] + first[i * 4 + 2] + first[i * 4 + 3] + second[i * 3];
      if (sum !== 255) return fail(`${sum} at ${i}`);
    }
    // Low and level there is no grass and no rock; the same again gives the same bytes.
    await jaunty('terrain', 'weights', 'hill.terrain.json', '--doc', 'ground.json', '--out', 'twice');
    for (const f of await readdir(at('weights'))) expect(await readFile(at(`twice/${f}`))).toEqual(await readFile(at(`weights/${f}`)));
    await writeFile(at('many.json'), JSON.stringify(ground(11)));
    await writeFile(at('most.json'), JSON.stringify(ground(12)));
    await jaunty('terrain', 'weights', 'hill.terrain.json', '--doc', 'many.json', '--out', 'sixteen');
    expect((await json<Table>('sixteen/weights.json')).layers.length).toBe(16);
    // The document itself holds no more.
    expect(await problem('terrain', 'weights', 'hill.terrain.json', '--doc', 'most.json', '--out', 'x')).toMatch(/16|layers/);
  });
  it('are counted tile by tile with their prices, and resolved to a limit', async () => {
    await jaunty('terrain', 'tiles', 'weights', '--side', '32', '--limit', '3', '--doc', 'ground.json', '--json');
    interface Row {
      layers: string[];
      over: boolean;
      price: { samples: number; operations: number };
    }
    const { tiles } = JSON.parse(printed.at(-1)!) as { tiles: Row[] };
    expect(tiles.length).toBe(8 * 6);
    expect(tiles.filter((t) => t.over).length).toBe(tiles.filter((t) => t.layers.length > 3).length);
    expect(tiles.some((t) => t.over)).toBeTrue();
    const [few, many] = [1, 5].map((n) => tiles.find((t) => t.layers.length === n)?.price.operations);
    if (few !== undefined && many !== undefined) expect(few).toBeLessThan(many);
    printed.length = 0;
    await jaunty('terrain', 'resolve', 'weights', '--side', '32', '--limit', '3', '--out', 'resolved');
    expect(printed.at(-1)).toBe(`${tiles.filter((t) => t.over).length} tiles were resolved`);
    expect(printed[0]).toMatch(/^tile \d+, \d+: without .+; \d+\.\d\d % of what is seen changed, at most \d+\.\d %$/);
    printed.length = 0;
    await jaunty('terrain', 'tiles', 'resolved', '--side', '32', '--limit', '3');
    expect(printed).toEqual(['0 of 48 tiles draw more than 3 layers']);
  });
  it('are refused with what is wrong, where, and what to do', async () => {
    const spoilt = async (name: string, change: (table: Record<string, unknown>) => void) => {
      await jaunty('terrain', 'resolve', 'weights', '--limit', '16', '--out', name);
      const table = await json<Record<string, unknown>>(`${name}/weights.json`);
      change(table);
      await writeFile(at(`${name}/weights.json`), JSON.stringify(table));
    };
    await spoilt('sized', (t) => (t['width'] = 256));
    expect(await problem('terrain', 'tiles', 'sized')).toMatch(/weights_1\.png: it has 257 × 193 samples where the table says 256 × 193/);
    await spoilt('away', (t) => ((t as unknown as Table).layers[0].file = '../ground.json'));
    expect(await problem('terrain', 'tiles', 'away')).toMatch(/which is no file beside it/);
    await spoilt('less', (t) => ((t as unknown as Table).layers = (t as unknown as Table).layers.slice(0, 4)));
    expect(await problem('terrain', 'tiles', 'less')).toMatch(/weights sum to \d+ instead of 255 at column \d+, row \d+/);
    await spoilt('gone', () => undefined);
    await rm(at('gone/weights_2.png'));
    expect(await problem('terrain', 'tiles', 'gone')).toMatch(/weights_2\.png: it is missing, and holds weights/);
    await writeFile(at('odd.terrain.json'), '{"kind":"terrain","version":2}');
    expect(await problem('terrain', 'mesh', 'odd.terrain.json', '--out', 'x.glb')).toMatch(
      /odd\.terrain\.json: it has version 2; version 1 is read here/,
    );
    await writeFile(
      at('lost.terrain.json'),
      JSON.stringify({ kind: 'terrain', version: 1, name: 'x', heights: 'lost.png', acrossM: 1, rangeM: 1, footM: 0 }),
    );
    expect(await problem('terrain', 'mesh', 'lost.terrain.json', '--out', 'x.glb')).toMatch(
      /lost\.png, the heights of lost\.terrain\.json, cannot be read/,
    );
    expect(await problem('terrain', 'plough')).toMatch(/terrain takes generate, import/);
  });
});
