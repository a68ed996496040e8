import { SPECIMEN_MODELS, makeImage, merged, placed } from '@pebble/core';
import { readGltf, writeGlb } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { layOut } from '@pebble/usecases/layout';
import { mkdir, mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { UsageError } from '../src/commands';
import { onLine } from './on-line';

const METRES = { unitM: 1, up: 'y' } as const;

describe('paint on the command line', () => {
  let dir: string;
  const { printed, jaunty, problem } = onLine(() => dir);
  const at = (file: string) => path.join(dir, file);
  const decode = async (file: string) => nodeCodec.decode(new Uint8Array(await readFile(at(file))), 'data');
  const strokes = {
    kind: 'strokes',
    version: 1,
    strokes: [
      {
        brush: { radiusM: 0.15 },
        aim: 'add',
        points: [
          [0, 0.5, 0.2],
          [0.1, 0.6, 0.2, 0.6],
        ],
      },
    ],
  };
  const surface = async (folder: string, colour: number[], side = 256) => {
    await mkdir(at(folder));
    const even = async (file: string, channels: number, values: number[], srgb = false) => {
      const image = makeImage({ width: side, height: side, channels, colourSpace: srgb ? 'srgb' : 'data' });
      for (let i = 0; i < side * side; i++) image.data.set(values, i * channels);
      await writeFile(at(`${folder}/${folder}_${file}.png`), await nodeCodec.encode(image));
    };
    await even('baseColor', 3, colour, true);
    await even('normal', 3, [128, 128, 255]);
    await even('roughness', 1, [colour[0]]);
    await even('height', 1, [128]);
  };
  beforeAll(async () => {
    dir = await mkdtemp(path.join(os.tmpdir(), 'pebble-cli-paint-'));
    const { model } = await layOut(SPECIMEN_MODELS['marker-stone'](1), 'repack', 0, 0, METRES, () => undefined);
    await writeFile(at('stone.glb'), await writeGlb('stone', model));
    await writeFile(at('still.glb'), await writeGlb('still', SPECIMEN_MODELS['copper-still'](1)));
    await writeFile(at('strokes.json'), JSON.stringify(strokes));
    await writeFile(
      at('stamps.json'),
      JSON.stringify({ kind: 'stamps', version: 1, stamps: [{ at: [0, 0.5, 0.2], radiusM: 0.12, byHeight: 0 }, { at: [9, 9, 9] }] }),
    );
    await writeFile(at('small.png'), await nodeCodec.encode(makeImage({ width: 256, height: 256, channels: 1 })));
    await surface('stone', [100, 100, 100]);
    await surface('moss', [40, 160, 30], 64);
  });
  afterAll(async () => rm(dir, { recursive: true }));

  it('paints strokes that were written down into a mask, the same each time, and goes on upon another', async () => {
    await jaunty('paint', 'replay', 'strokes.json', '--mesh', 'stone.glb', '--side', '256', '--out', 'mask.png');
    expect(printed.at(-1)).toMatch(/mask\.png: 1 strokes on 256² texels of 8 bits/);
    const first = await readFile(at('mask.png'));
    await jaunty('paint', 'replay', 'strokes.json', '--mesh', 'stone.glb', '--side', '256', '--out', 'again.png');
    expect(await readFile(at('again.png'))).toEqual(first);
    const { data } = await decode('mask.png');
    expect(data.some((v) => v === 255)).toBeTrue();
    expect(data.filter((v) => v > 0).length).toBeLessThan(data.length / 2);
    await jaunty(
      'paint',
      'replay',
      'strokes.json',
      '--mesh',
      'stone.glb',
      '--side',
      '256',
      '--bits',
      '16',
      '--from',
      'mask.png',
      '--out',
      'deep.png',
    );
    const deep = await decode('deep.png');
    expect(deep.depth).toBe(16);
    // Strength 1 goes all the way at once: what was painted a second time is at least what it was.
    expect(deep.data.every((v, i) => v >= data[i] * 257)).toBeTrue();
  });
  it('paints them into vertex colours', async () => {
    await jaunty('paint', 'replay', 'strokes.json', '--mesh', 'stone.glb', '--out', 'painted.glb');
    const colours = async (file: string) =>
      merged((await readGltf(new Uint8Array(await readFile(at(file))))).model.lods[0].map((p) => placed(p, METRES, 0))).geomcolor;
    const [before, after] = [await colours('stone.glb'), await colours('painted.glb')];
    const red = (of: Float32Array) => of.reduce((sum, v, i) => sum + (i % 4 === 0 ? v : 0), 0);
    expect(after.length).toBe(before.length);
    expect(red(after)).toBeGreaterThan(red(before));
  });
  it('presses stamps of one surface into all maps of another that lies on a mesh', async () => {
    await jaunty('stamp', 'stamps.json', '--from', 'moss', '--into', 'stone', '--mesh', 'stone.glb', '--out', 'stamped');
    expect(printed.at(-1)).toMatch(/stamped: 1 stamps, [\d,]+ texels; 1 lay beside the mesh/);
    const files = await readdir(at('stamped'));
    const read = async (role: string) => decode(`stamped/${files.find((f) => f.includes(role))}`);
    const [colour, roughness] = [await read('baseColor'), await read('roughness')];
    let both = 0;
    for (let i = 0; i < roughness.data.length; i++) {
      const green = colour.data[i * colour.channels + 1] > 140;
      if (green) both++;
      // Wherever the one is the other is too.
      if (green) expect(roughness.data[i * roughness.channels]).toBeLessThan(72);
    }
    expect(both).toBeGreaterThan(100);
  });
  it('says what is wrong with strokes, stamps and meshes, and writes nothing', async () => {
    await writeFile(at('bad.json'), JSON.stringify({ ...strokes, strokes: [{ ...strokes.strokes[0], aim: 'spray' }] }));
    expect(await problem('paint', 'replay', 'bad.json', '--mesh', 'stone.glb', '--out', 'no.png')).toMatch(/bad\.json: Stroke 1: its aim is one of/);
    expect(await problem('paint', 'replay', 'gone.json', '--mesh', 'stone.glb', '--out', 'no.png')).toMatch(/gone\.json cannot be read/);
    expect(await problem('paint', 'replay', 'strokes.json', '--mesh', 'stone.glb', '--set', '4', '--out', 'no.png')).toMatch(/has no set 4/);
    expect(await problem('paint', 'replay', 'strokes.json', '--mesh', 'stone.glb', '--from', 'small.png', '--out', 'no.png')).toMatch(
      /256 × 256 texels where 1024²/,
    );
    expect(await problem('stamp', 'stamps.json', '--from', 'moss', '--into', 'stone', '--mesh', 'still.glb', '--out', 'no')).toMatch(
      /lie on each other over \d+\.\d % of what set 1 covers/,
    );
    await expectAsync(jaunty('paint', 'spray')).toBeRejectedWithError(UsageError, /paint takes replay/);
    await expectAsync(jaunty('paint', 'replay', 'strokes.json', '--mesh', 'stone.glb', '--out', 'no.txt')).toBeRejectedWithError(UsageError, /\.png/);
    expect((await readdir(dir)).filter((f) => f.startsWith('no'))).toEqual([]);
  });
});
