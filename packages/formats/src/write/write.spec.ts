import type { Image } from '@pebble/core';
import { compareImages, generateSurface, makeImage, makeRandom, mipChain, textureBytes } from '@pebble/core';
import { read } from 'ktx-parse';
import sharp from 'sharp';
import { probeImage } from '../index';
import { nodeCodec } from '../node';
import type { Ktx2Kind, TextureFile } from '@pebble/core';
import { KTX2_CHANNELS, KTX2_KINDS, TEXTURE_FILES } from '@pebble/core';
import { decodeBlocks } from '../images/pixels/blocks';
import { EFFORT, hardwareBlocks, universalFile } from './basis';
import { asRgba, textureFileOf, writeTexture } from './index';

const random = makeRandom(31);
const noise = (channels: number, depth: 8 | 16 = 8, width = 24, height = 16, colourSpace: Image['colourSpace'] = 'data') => {
  const data = depth === 8 ? new Uint8Array(width * height * channels) : new Uint16Array(width * height * channels);
  return makeImage({ width, height, channels, depth, colourSpace, data: data.map(() => random() * 2 ** depth) });
};
const same = (a: Image, b: Image): boolean => a.data.length === b.data.length && a.data.every((v, i) => v === b.data[i]);

describe('textures as files', () => {
  it('are what the ending of a name says, whatever its case, and nothing else', async () => {
    for (const [name, kind] of [
      ['a.PNG', 'png'],
      ['a.b.tif', 'tiff'],
      ['x.jpeg', 'jpg'],
      ['x.ktx2', 'ktx2'],
      ['x.tga', 'tga'],
      ['x.bmp', null],
      ['png', null],
    ] as const)
      expect(textureFileOf(name)).withContext(name).toBe(kind);
    for (const kind of Object.keys(TEXTURE_FILES) as TextureFile[]) {
      const bytes = await writeTexture([noise(3)], kind);
      expect(probeImage(bytes).format)
        .withContext(kind)
        .toBe({ jpg: 'jpeg' }[kind as 'jpg'] ?? kind);
    }
  });
  it('keep every sample where nothing is lost, over channels and depths, as an independent reader sees it', async () => {
    for (const kind of ['png', 'tga', 'tiff', 'ktx2'] as const)
      for (const depth of TEXTURE_FILES[kind].depths)
        for (const channels of [1, 3, 4]) {
          const image = noise(channels, depth);
          const bytes = await writeTexture([image], kind);
          const back = await nodeCodec.decode(bytes, 'data');
          expect([back.width, back.height, back.channels, back.depth]).withContext(kind).toEqual([24, 16, channels, depth]);
          expect(same(back, image)).withContext(`${kind}, ${channels} × ${depth}`).toBeTrue();
          if (kind === 'tiff') {
            const { data, info } = await sharp(bytes)
              .toColourspace(channels === 1 ? (depth === 16 ? 'grey16' : 'b-w') : depth === 16 ? 'rgb16' : 'srgb')
              .raw({ depth: depth === 16 ? 'ushort' : 'uchar' })
              .toBuffer({ resolveWithObject: true });
            expect(info.channels).toBe(channels as 1);
            const seen = depth === 16 ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data;
            expect([...seen]).toEqual([...image.data]);
          }
          if (kind === 'ktx2') expect([...read(bytes).levels[0].levelData]).toEqual([...new Uint8Array(image.data.buffer)]);
        }
  });
  it('refuse what their kind does not hold, and say what does', async () => {
    await expectAsync(writeTexture([noise(1, 16)], 'tga')).toBeRejectedWithError(/TGA holds 8 bits, not 16/);
    await expectAsync(writeTexture([noise(4)], 'jpg')).toBeRejectedWithError(/JPEG holds no alpha/);
    await expectAsync(writeTexture([noise(3, 16)], 'ktx2', { block: 'BC7' })).toBeRejectedWithError(/made of 8 bits/);
  });
});

describe('KTX2 of blocks', () => {
  const { maps } = generateSurface('river-gravel', { seed: 8, size: 64 });
  const sourceOf = (kind: Ktx2Kind): Image => (KTX2_CHANNELS[kind] === 1 ? maps.roughness : kind === 'BC5' ? maps.normal : maps.baseColor);
  it('hold all levels, as many bytes as the memory of a target says, and what an independent reader says of them', async () => {
    for (const kind of KTX2_KINDS) {
      const levels = mipChain(sourceOf(kind));
      const file = read(await writeTexture(levels, 'ktx2', { block: kind }));
      expect([file.pixelWidth, file.pixelHeight, file.levels.length, file.faceCount]).withContext(kind).toEqual([64, 64, 7, 1]);
      if (kind === 'UASTC' || kind === 'ETC1S') {
        expect([file.vkFormat, file.dataFormatDescriptor[0].colorModel]).toEqual([0, kind === 'UASTC' ? 166 : 163]);
        continue;
      }
      const sum = file.levels.reduce((n, l) => n + l.uncompressedByteLength, 0);
      const wanted = kind === 'plain' ? levels.reduce((n, l) => n + l.data.byteLength, 0) : textureBytes(64, 64, kind);
      expect(sum).withContext(kind).toBe(wanted);
      const srgb = sourceOf(kind).colourSpace === 'srgb';
      expect(file.dataFormatDescriptor[0].transferFunction)
        .withContext(kind)
        .toBe(srgb ? 2 : 1);
    }
  });
  it('lose no more than their kind does, of pictures that are no whole number of blocks, too', async () => {
    const least: Partial<Record<Ktx2Kind, number>> = { BC1: 26, BC3: 26, BC4: 36, BC5: 34, BC7: 34, UASTC: 33, ETC1S: 20 };
    for (const kind of KTX2_KINDS) {
      if (kind === 'plain') continue;
      const whole = sourceOf(kind);
      for (const [width, height] of [
        [64, 64],
        [30, 13],
      ]) {
        const cut = makeImage({ width, height, channels: whole.channels, colourSpace: whole.colourSpace });
        for (let y = 0; y < height; y++)
          cut.data.set(whole.data.subarray(y * 64 * whole.channels, (y * 64 + width) * whole.channels) as never, y * width * whole.channels);
        const back = await nodeCodec.decode(await writeTexture([cut], 'ktx2', { block: kind }), 'data');
        expect([back.width, back.height]).toEqual([width, height]);
        const kept = Math.min(KTX2_CHANNELS[kind], whole.channels);
        compareImages(cut, back, 'data')
          .channels.slice(0, kept)
          .forEach(({ psnr }, c) =>
            expect(psnr ?? 99)
              .withContext(`${kind} ${width} × ${height}, channel ${c}`)
              .toBeGreaterThan(least[kind] ?? 0),
          );
      }
    }
  });
  it('are tried as hard as it takes to be within half a decibel of the most that can be tried', async () => {
    const MOST = 4;
    for (const name of ['river-gravel', 'weathered-copper'] as const) {
      const picture = generateSurface(name, { seed: 8, size: 48 }).maps.baseColor;
      const rgba = asRgba(picture);
      const decibels = (back: Image) => {
        const all = compareImages(picture, back, 'data').channels.slice(0, 3);
        return -10 * Math.log10(all.reduce((sum, { psnr }) => sum + 10 ** (-(psnr ?? 99) / 10), 0) / 3);
      };
      const bc7 = async (level: number) =>
        decibels(makeImage({ width: 48, height: 48, channels: 4, data: decodeBlocks(await hardwareBlocks(rgba, 'BC7', level), 48, 48, 'BC7', 4) }));
      const uastc = async (level: number) =>
        decibels(await nodeCodec.decode(await universalFile(rgba, { kind: 'UASTC', srgb: true, directions: false, mips: false, level }), 'data'));
      expect((await bc7(MOST)) - (await bc7(EFFORT.BC7)))
        .withContext(`BC7, ${name}`)
        .toBeLessThan(0.5);
      expect((await uastc(MOST)) - (await uastc(EFFORT.UASTC)))
        .withContext(`UASTC, ${name}`)
        .toBeLessThan(0.5);
    }
  });
  it('are the same bytes for the same picture, and strips of a large one join as one', async () => {
    const image = noise(4, 8, 64, 32);
    const once = await writeTexture([image], 'ktx2', { block: 'BC7' });
    expect(await writeTexture([image], 'ktx2', { block: 'BC7' })).toEqual(once);
    for (const kind of ['BC1', 'BC4', 'BC7'] as const)
      expect(await hardwareBlocks(asRgba(image), kind, EFFORT.BC7, 64 * 8)).toEqual(await hardwareBlocks(asRgba(image), kind));
  });
  it('of universal blocks are read by the makers’ own transcoder', async () => {
    for (const block of ['UASTC', 'ETC1S'] as const) {
      const bytes = await writeTexture(mipChain(maps.baseColor), 'ktx2', { block });
      const back = await nodeCodec.decode(bytes, 'srgb');
      const { deltaE } = compareImages(maps.baseColor, back, 'colour');
      expect(deltaE?.mean)
        .withContext(block)
        .toBeLessThan(block === 'UASTC' ? 2.5 : 8);
    }
  });
});
