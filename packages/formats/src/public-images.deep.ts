import type { Image } from '@pebble/core';
import { existsSync } from 'node:fs';
import { readFile, readdir } from 'node:fs/promises';
import path from 'node:path';
import { FormatError } from './index';
import { nodeCodec } from './node';

/** A folder of pictures, good and deliberately broken, with what they hold, that ship in a package for tests of readers. */
const FOLDER = process.env['PEBBLE_IMAGES'] ?? '';

const read = async (file: string): Promise<Image | FormatError> => {
  try {
    return await nodeCodec.decode(new Uint8Array(await readFile(file)), 'data');
  } catch (error) {
    if (error instanceof FormatError) return error;
    throw new Error(`${file}: ${(error as Error).stack}`, { cause: error });
  }
};
const under = async (folder: string, kind: RegExp): Promise<string[]> =>
  (await readdir(path.join(FOLDER, folder), { recursive: true })).filter((f) => kind.test(f)).map((f) => path.join(FOLDER, folder, f));

/** Red, green, blue and alpha of every pixel, each 0–255. */
function rgba({ channels, data, depth }: Image): number[] {
  const out: number[] = [];
  const eight = (v: number) => (depth === 16 ? v / 257 : v);
  for (let i = 0; i < data.length; i += channels) {
    const grey = channels <= 2;
    for (let c = 0; c < 3; c++) out.push(eight(data[i + (grey ? 0 : c)]));
    out.push(channels % 2 ? 255 : eight(data[i + channels - 1]));
  }
  return out;
}
/** The largest difference of two pictures; what cannot be seen does not count. */
function apart(a: readonly number[], b: readonly number[]): number {
  if (a.length !== b.length) return Infinity;
  let worst = 0;
  for (let i = 0; i < a.length; i += 4) {
    if (a[i + 3] < 0.5 && b[i + 3] < 0.5) continue;
    for (let c = 0; c < 4; c++) worst = Math.max(worst, Math.abs(a[i + c] - b[i + c]));
  }
  return worst;
}

describe('pictures of a public collection', () => {
  it('of PNG in every layout hold what is said of them; broken ones are refused', async () => {
    const files = await under('pngsuite/png', /\.png$/);
    expect(files.length).toBeGreaterThan(150);
    let compared = 0;
    for (const file of files) {
      const name = path.basename(file, '.png');
      const image = await read(file);
      if (name.startsWith('x')) {
        expect(image).withContext(name).toBeInstanceOf(FormatError);
        continue;
      }
      if (image instanceof FormatError) return fail(`${name}: ${image.message}`);
      const said = path.join(FOLDER, 'pngsuite/json', `${name}.json`);
      // Those that are to be brightened for a screen are brightened there; maps hold numbers.
      if (!existsSync(said) || /^g\d\d/.test(name)) continue;
      const wanted = JSON.parse(await readFile(said, 'utf8')) as number[];
      const scale = wanted.some((v) => v > 255) ? 257 : 1;
      expect(
        apart(
          rgba(image),
          wanted.map((v) => v / scale),
        ),
      )
        .withContext(name)
        .toBeLessThanOrEqual(1);
      compared++;
    }
    expect(compared).toBeGreaterThan(100);
  }, 120_000);
  it('of TGA are what the PNG beside each of them is', async () => {
    let compared = 0;
    for (const file of await under('tga-test-suite', /\.tga$/i)) {
      const image = await read(file);
      const beside = file.replace(/\.tga$/i, '.png');
      if (image instanceof FormatError || !existsSync(beside)) continue;
      const wanted = (await read(beside)) as Image;
      expect([image.width, image.height]).withContext(file).toEqual([wanted.width, wanted.height]);
      // Five bits a channel are widened in two ways in use.
      expect(apart(rgba(image), rgba(wanted)))
        .withContext(file)
        .toBeLessThanOrEqual(8);
      compared++;
    }
    expect(compared).toBeGreaterThan(30);
  }, 120_000);
  it('that are damaged each end in a typed error or a picture', async () => {
    const ended = { read: 0, refused: 0 };
    for (const file of await under('imagetestsuite', /\.(png|jpg|tif)$/)) ended[(await read(file)) instanceof FormatError ? 'refused' : 'read']++;
    expect(ended.read + ended.refused).toBeGreaterThan(300);
    expect(ended.refused).toBeGreaterThan(10);
  }, 600_000);
});
