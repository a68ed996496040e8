import { fromHalf, toHalf } from '@pebble/core';
import { createDefaultContainer, write as writeKtx2 } from 'ktx-parse';
import sharp from 'sharp';
import { zlibSync } from 'fflate';
import { decodeBlocks } from './images/pixels/blocks';
import { FormatError, probeImage } from './index';
import { nodeCodec } from './node';
import { seededSamples } from './testing/samples';
import type { Picture } from './testing/writers';
import { writeExr, writeHdr, writeTga, writeTiff } from './testing/writers';

const { next, bytes, picture, byte, word, real } = seededSamples(77);

async function expectPicture(file: Uint8Array, { width, height, channels, data }: Picture, depth: 8 | 16 | 32): Promise<void> {
  const facts = probeImage(file);
  expect([facts.width, facts.height, facts.channels, facts.depth]).toEqual([width, height, channels as 1, depth]);
  const image = await nodeCodec.decode(file, 'data');
  expect([image.width, image.height, image.channels, image.depth]).toEqual([width, height, channels as 1, depth]);
  expect(Array.from(image.data)).toEqual(Array.from(data));
}

describe('TIFF', () => {
  for (const little of [true, false])
    for (const channels of [1, 2, 3, 4]) {
      it(`keeps every sample of ${channels} channels, ${little ? 'little' : 'big'}-endian`, async () => {
        const eight = picture(7, 5, channels, byte);
        await expectPicture(writeTiff(eight, 8, little), eight, 8);
        const sixteen = picture(7, 5, channels, word);
        await expectPicture(writeTiff(sixteen, 16, little), sixteen, 16);
        const float = picture(7, 5, channels, real);
        await expectPicture(writeTiff(float, 32, little), float, 32);
      });
    }
  it('is read compressed, too', async () => {
    const data = bytes(40 * 30 * 3);
    for (const compression of ['lzw', 'deflate', 'packbits'] as const) {
      const file = await sharp(data, { raw: { width: 40, height: 30, channels: 3 } })
        .tiff({ compression })
        .toBuffer();
      await expectPicture(file, { width: 40, height: 30, channels: 3, data }, 8);
    }
  });
});

describe('BigTIFF', () => {
  it('keeps every sample', async () => {
    const data = bytes(40 * 30 * 3);
    const file = await sharp(data, { raw: { width: 40, height: 30, channels: 3 } })
      .tiff({ bigtiff: true, compression: 'none' })
      .toBuffer();
    expect(file[2]).toBe(43);
    await expectPicture(file, { width: 40, height: 30, channels: 3, data }, 8);
  });
});

describe('WebP', () => {
  for (const channels of [3, 4] as const)
    it(`keeps every sample of ${channels} channels when it is lossless`, async () => {
      const data = bytes(33 * 21 * channels);
      const file = await sharp(data, { raw: { width: 33, height: 21, channels } })
        .webp({ lossless: true, exact: true })
        .toBuffer();
      await expectPicture(file, { width: 33, height: 21, channels, data }, 8);
    });
  it('says its size when it is lossy', async () => {
    const file = await sharp(bytes(64 * 48 * 3), { raw: { width: 64, height: 48, channels: 3 } })
      .webp({ quality: 60 })
      .toBuffer();
    expect(probeImage(file)).toEqual({ format: 'webp', width: 64, height: 48, channels: 3, depth: 8 });
  });
});

describe('TGA', () => {
  it('of whose alpha nothing is set is opaque; where anything is, alpha stays', async () => {
    const p = picture(6, 5, 4, byte);
    const clear = { ...p, data: Array.from(p.data, (v, i) => (i % 4 === 3 ? 0 : v)) };
    await expectPicture(writeTga(clear), { ...p, data: Array.from(p.data, (v, i) => (i % 4 === 3 ? 255 : v)) }, 8);
    const one = { ...clear, data: clear.data.map((v, i) => (i === 7 ? 3 : v)) };
    await expectPicture(writeTga(one), one, 8);
  });
  for (const fromTop of [true, false])
    for (const fromRight of [true, false])
      for (const runs of [true, false])
        it(`is read from the ${fromTop ? 'top' : 'bottom'} ${fromRight ? 'right' : 'left'}${runs ? ', with run lengths' : ''}`, async () => {
          for (const channels of [1, 3, 4]) {
            const p = picture(9, 6, channels, () => Math.floor(next() * 3) * 100);
            await expectPicture(writeTga(p, { fromTop, fromRight, runs, id: 'made for a test' }), p, 8);
          }
        });
  it('takes colours from its palette, and refuses one that is not there', async () => {
    const palette = [
      [200, 10, 20],
      [1, 2, 3],
      [90, 255, 0],
    ];
    const indices = picture(4, 3, 1, () => Math.floor(next() * 3));
    const file = writeTga(indices, { palette });
    await expectPicture(file, { ...indices, channels: 3, data: Array.from(indices.data).flatMap((i) => palette[i]) }, 8);
    file[file.length - 1] = 7;
    await expectAsync(nodeCodec.decode(file, 'data')).toBeRejectedWithError(FormatError, /colour that its palette does not have/);
  });
  it('spreads five bits over eight', async () => {
    const head = [0, 0, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, 2, 0, 1, 0, 16, 0x21];
    const image = await nodeCodec.decode(Uint8Array.of(...head, 0xff, 0xff, 0x00, 0x7c), 'data');
    expect([...image.data]).toEqual([255, 255, 255, 255, 255, 0, 0, 0]);
  });
});

describe('OpenEXR', () => {
  for (const tile of [0, 4])
    for (const channels of [1, 3, 4])
      it(`keeps every float and half of ${channels} channels, in ${tile ? 'tiles' : 'rows'}`, async () => {
        const float = picture(10, 7, channels, real);
        await expectPicture(writeExr(float, 2, toHalf, tile), float, 32);
        const half = picture(10, 7, channels, () => fromHalf(toHalf(real())));
        await expectPicture(writeExr(half, 1, toHalf, tile), half, 32);
      });
});

describe('Radiance', () => {
  for (const width of [5, 40])
    it(`gives the light that its mantissas and exponents say, ${width} wide`, async () => {
      const rgbe = Array.from({ length: width * 4 * 4 }, (_, i) => (i % 4 === 3 ? 120 + Math.floor(next() * 16) : Math.floor(next() * 4) * 60));
      const image = await nodeCodec.decode(writeHdr({ width, height: 4, channels: 3, data: [] }, rgbe), 'linear');
      expect([image.width, image.height, image.channels, image.depth]).toEqual([width, 4, 3, 32]);
      for (let i = 0; i < width * 4; i++)
        for (let c = 0; c < 3; c++) expect(image.data[i * 3 + c]).toBeCloseTo(rgbe[i * 4 + c] * 2 ** (rgbe[i * 4 + 3] - 128 - 8), 6);
    });
});

/** Bytes as a Zstandard frame of one raw block. Source: RFC 8878, 3.1.1. */
function zstdFrame(data: Uint8Array): Uint8Array<ArrayBuffer> {
  const size = data.length;
  const block = (size << 3) | 1;
  const words = (v: number, bytesOf: number) => Array.from({ length: bytesOf }, (_, i) => (v >> (8 * i)) & 255);
  return Uint8Array.of(0x28, 0xb5, 0x2f, 0xfd, 0xa0, ...words(size, 4), ...words(block, 3), ...data);
}

describe('KTX2', () => {
  const container = (vkFormat: number, width: number, height: number, data: Uint8Array, scheme = 0) => {
    const c = createDefaultContainer();
    c.vkFormat = vkFormat as typeof c.vkFormat;
    c.pixelWidth = width;
    c.pixelHeight = height;
    c.supercompressionScheme = scheme as 0;
    const packed = { 0: () => Uint8Array.from(data), 2: () => zstdFrame(data), 3: () => zlibSync(data) }[scheme] as () => Uint8Array<ArrayBuffer>;
    c.levels = [{ levelData: packed(), uncompressedByteLength: data.length }];
    return writeKtx2(c);
  };
  for (const scheme of [0, 2, 3])
    it(`keeps every sample of plain formats${{ 0: '', 2: ', supercompressed by Zstandard', 3: ', supercompressed by zlib' }[scheme]}`, async () => {
      for (const [format, channels] of [
        [9, 1],
        [16, 2],
        [23, 3],
        [43, 4],
      ]) {
        const data = bytes(6 * 5 * channels);
        await expectPicture(container(format, 6, 5, data, scheme), { width: 6, height: 5, channels, data }, 8);
      }
      const words = Uint16Array.from({ length: 6 * 5 * 4 }, word);
      await expectPicture(container(91, 6, 5, new Uint8Array(words.buffer), scheme), { width: 6, height: 5, channels: 4, data: words }, 16);
      const floats = Float32Array.from({ length: 6 * 5 }, real);
      await expectPicture(container(100, 6, 5, new Uint8Array(floats.buffer), scheme), { width: 6, height: 5, channels: 1, data: floats }, 32);
      const halves = Uint16Array.from({ length: 6 * 5 * 2 }, () => toHalf(real()));
      await expectPicture(
        container(83, 6, 5, new Uint8Array(halves.buffer), scheme),
        { width: 6, height: 5, channels: 2, data: Array.from(halves, fromHalf) },
        32,
      );
    });
  it('puts blue back where it belongs', async () => {
    await expectPicture(container(44, 1, 1, Uint8Array.of(1, 2, 3, 4)), { width: 1, height: 1, channels: 4, data: [3, 2, 1, 4] }, 8);
  });
  it('takes blocks apart, partial ones at the border too', async () => {
    // Two ends, red and blue, and the colours between: indices 0 1 2 3 in every row.
    const bc1 = Uint8Array.of(0x00, 0xf8, 0x1f, 0x00, 0b11100100, 0b11100100, 0b11100100, 0b11100100);
    const row = [255, 0, 0, 0, 0, 255, 170, 0, 85, 85, 0, 170];
    expect([...decodeBlocks(bc1, 4, 1, 'BC1', 3)]).toEqual(row);
    expect([...decodeBlocks(bc1, 3, 2, 'BC1', 3)]).toEqual([...row.slice(0, 9), ...row.slice(0, 9)]);
    const clear = Uint8Array.of(0x1f, 0x00, 0x00, 0xf8, 0xff, 0, 0, 0);
    expect([...decodeBlocks(clear, 1, 1, 'BC1', 4)]).toEqual([0, 0, 0, 0]);
    const bc4 = Uint8Array.of(210, 0, 0b10001000, 0b11000110, 0b11111010, 0, 0, 0);
    expect([...decodeBlocks(bc4, 4, 2, 'BC4', 1)]).toEqual([210, 0, 180, 150, 120, 90, 60, 30]);
    await expectPicture(container(139, 4, 4, bc4), { width: 4, height: 4, channels: 1, data: decodeBlocks(bc4, 4, 4, 'BC4', 1) }, 8);
    expect(() => decodeBlocks(bc4, 8, 4, 'BC4', 1)).toThrowError(RangeError, '2 blocks expected, 1 there');
  });
  it('is transcoded when it holds universal blocks', async () => {
    const { encodeToKTX2 } = await import('ktx2-encoder');
    const [width, height] = [32, 24];
    const data = Uint8Array.from({ length: width * height * 4 }, (_, i) => (i % 4 === 3 ? 255 : Math.floor((i / 4 / width) * 8 + (i % 4) * 30)));
    for (const isUASTC of [true, false]) {
      const file = await encodeToKTX2(new Uint8Array(1), {
        isUASTC,
        imageDecoder: async () => ({ width, height, data }),
        generateMipmap: false,
        isKTX2File: true,
        isSetKTX2SRGBTransferFunc: false,
        needSupercompression: isUASTC,
      } as never);
      expect(probeImage(file)).toEqual({ format: 'ktx2', width, height, channels: 3, depth: 8 });
      const image = await nodeCodec.decode(file, 'data');
      let off = 0;
      for (let i = 0; i < width * height; i++) for (let c = 0; c < 3; c++) off += Math.abs(image.data[i * 3 + c] - data[i * 4 + c]);
      expect(off / (width * height * 3)).toBeLessThan(isUASTC ? 1 : 8);
    }
  });
});
