// Three hundred files of each kind that once was read wrong, made from seeds: a short choice of them is in the usual tests.
import type { Recognition } from '@pebble/core';
import { makeImage, makeRandom, recognise, recogniseSurface } from '@pebble/core';
import { nodeCodec } from './node';
import { HARD_KINDS, hardNormals, turned } from './testing/hard-normals';
import { lossy } from './testing/recognition-set';
import { seededSamples } from './testing/samples';
import { writeTiffPieces } from './testing/writers';

const EACH = 300;
const asks = (r: Recognition): boolean => r.findings.some((f) => f.severity === 'question');

describe('three hundred of each', () => {
  it('normal maps of strands, threads, facets and shards: at most 1 in 100 is wrong without a question', async () => {
    let wrong = 0;
    for (let k = 0; k < EACH; k++) {
      const kind = HARD_KINDS[k % HARD_KINDS.length];
      const seed = 1000 + k;
      if (kind === 'slats' && seed % 2) continue;
      const { image, direction } = hardNormals(kind, seed);
      const quality = k % 3 ? 0 : 50 + (k % 45);
      const r = recognise(quality ? await lossy(image, quality) : image, { lossy: quality > 0 });
      if (!asks(r) && r.normalDirection !== direction) wrong++;
    }
    expect(wrong / EACH).toBeLessThanOrEqual(0.01);
  }, 1_800_000);
  it('normal maps that were turned or whose channels were exchanged: at most 1 in 100 passes without a question', () => {
    let passed = 0;
    for (let k = 0; k < EACH; k++) {
      const { image } = hardNormals(k % 2 ? 'facets' : 'threads', 3000 + 2 * k);
      const bad =
        k % 4 < 2 ? turned(image) : { ...image, data: image.data.map((_, i) => image.data[i % 3 === 2 ? i : i % 3 ? i - 1 : i + 1]) as Uint8Array };
      if (!asks(recognise(bad))) passed++;
    }
    expect(passed / EACH).toBeLessThanOrEqual(0.01);
  }, 1_800_000);
  it('TIFF in tiles, planes, floats and either order of bytes: every sample', async () => {
    const { next, picture, byte, word, real } = seededSamples(4711);
    for (let k = 0; k < EACH; k++) {
      const bits = ([8, 16, 32] as const)[k % 3];
      const p = picture(
        1 + Math.floor(next() * 60),
        1 + Math.floor(next() * 60),
        1 + Math.floor(next() * 4),
        bits === 8 ? byte : bits === 16 ? word : real,
      );
      const file = writeTiffPieces(p, {
        bits,
        tile: next() < 0.6 ? 16 * (1 + Math.floor(next() * 3)) : 0,
        planar: next() < 0.5,
        little: next() < 0.5,
      });
      const { data } = await nodeCodec.decode(file, 'data');
      const off = Array.from(data).findIndex((v, i) => v !== (bits === 32 ? Math.fround(p.data[i]) : p.data[i]));
      expect(off).withContext(`file ${k}`).toBe(-1);
    }
  }, 600_000);
  it('grey with alpha, alone and in atlases that are mostly clear: read, and asked about', () => {
    const random = makeRandom(99);
    for (let k = 0; k < EACH; k++) {
      const side = 32 + Math.floor(random() * 64);
      const channels = k % 2 ? 2 : 4;
      const image = makeImage({ width: side, height: side, channels });
      const radius = side * (0.1 + 0.3 * random());
      for (let i = 0; i < side * side; i++) {
        const inside = Math.hypot((i % side) - side / 2, Math.floor(i / side) - side / 2) < radius;
        const grey = inside ? Math.floor(random() * 256) : 0;
        for (let c = 0; c < channels; c++) image.data[i * channels + c] = c === channels - 1 ? (inside ? 255 : 0) : grey;
      }
      const [r] = recogniseSurface([{ image }]);
      expect(r.content).withContext(`file ${k}`).toBe('grey');
      expect(asks(r)).withContext(`file ${k}`).toBeTrue();
    }
  }, 600_000);
});
