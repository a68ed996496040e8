// Pictures that are stored otherwise than row by row from the top, channels side by side: written by others, read by us.
import { fromHalf, toHalf } from '@pebble/core';
import { KHR_SUPERCOMPRESSION_NONE, createDefaultContainer, write as writeKtx2 } from 'ktx-parse';
import sharp from 'sharp';
import { FormatError, probeImage } from './index';
import { nodeCodec } from './node';
import { seededSamples } from './testing/samples';
import { writeExr, writeHdr, writeTiffPieces } from './testing/writers';

const { bytes, picture, byte, word, real } = seededSamples(78);

const decoded = (file: Uint8Array) => nodeCodec.decode(file, 'data');
const smooth = (width: number, height: number, channels: number) =>
  Uint8Array.from({ length: width * height * channels }, (_, i) => Math.round(127 + 100 * Math.sin(i / channels / 9) + (i % channels) * 5));

/** Where two rows of numbers differ first; −1 where they are the same. */
const firstApart = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  a.length === b.length ? Array.prototype.findIndex.call(a, (v: number, i: number) => v !== b[i]) : Math.min(a.length, b.length);

describe('TIFF in tiles', () => {
  const [width, height] = [150, 70];
  for (const compression of ['none', 'lzw', 'deflate', 'packbits'] as const)
    for (const channels of [1, 3, 4] as const)
      it(`of ${channels} channels, ${compression}, is read to the last sample`, async () => {
        for (const [data, predictor] of [
          [bytes(width * height * channels), 'none'],
          [smooth(width, height, channels), 'horizontal'],
        ] as const) {
          const file = await sharp(data, { raw: { width, height, channels } })
            .toColourspace(channels === 1 ? 'b-w' : 'srgb')
            .tiff({ compression, predictor, tile: true, tileWidth: 64, tileHeight: 32 })
            .toBuffer();
          const image = await decoded(file);
          expect(image.channels).toBe(channels);
          expect(firstApart(image.data, data)).toBe(-1);
        }
      });
  it('of floats with one to four channels is read in tiles, in planes and in rows, with either order of bytes', async () => {
    for (const channels of [1, 2, 3, 4])
      for (const tile of [0, 16])
        for (const planar of [false, true])
          for (const little of [false, true]) {
            const float = picture(37, 21, channels, real);
            const image = await decoded(writeTiffPieces(float, { bits: 32, tile, planar, little }));
            expect([image.width, image.height, image.channels, image.depth]).toEqual([37, 21, channels as 1, 32]);
            expect([...image.data]).toEqual(Array.from(float.data).map(Math.fround));
          }
  });
  it('of half floats, and of 8 and 16 bits in planes with alpha too', async () => {
    const half = picture(20, 9, 3, () => fromHalf(toHalf(real())));
    expect([...(await decoded(writeTiffPieces(half, { bits: 16, half: toHalf }))).data]).toEqual(Array.from(half.data));
    for (const channels of [2, 3, 4])
      for (const tile of [0, 16]) {
        const eight = picture(37, 21, channels, byte);
        expect([...(await decoded(writeTiffPieces(eight, { bits: 8, tile, planar: true }))).data]).toEqual(Array.from(eight.data));
        const sixteen = picture(37, 21, channels, word);
        expect([...(await decoded(writeTiffPieces(sixteen, { bits: 16, tile, planar: true, little: false }))).data]).toEqual(
          Array.from(sixteen.data),
        );
      }
  });
  it('that are cut off, damaged or packed in an unknown way are refused with a sentence', async () => {
    const good = new Uint8Array(
      await sharp(bytes(width * height * 3), { raw: { width, height, channels: 3 } })
        .tiff({ compression: 'deflate', tile: true, tileWidth: 64, tileHeight: 32 })
        .toBuffer(),
    );
    expect((await decoded(good)).width).toBe(width);
    const refused = (file: Uint8Array) =>
      decoded(file).then(
        () => null,
        (e: unknown) => e as Error,
      );
    // Most of the file is tiles: wherever it is damaged, one of them is.
    for (const share of [0.2, 0.4, 0.6]) {
      const damaged = good.slice();
      damaged.fill(0x5a, Math.floor(good.length * share), Math.floor(good.length * share) + 60);
      expect(await refused(damaged))
        .withContext(`damaged at ${share}`)
        .toBeInstanceOf(FormatError);
      expect(await refused(good.slice(0, Math.floor(good.length * share))))
        .withContext(`cut at ${share}`)
        .toBeInstanceOf(FormatError);
    }
    const odd = writeTiffPieces(picture(8, 8, 1, byte), { bits: 8, tile: 16, compression: 50001 });
    expect((await refused(odd))?.message).toMatch(/its compression \(50001\) is not read\. Save it with LZW, deflate or none/);
  });
});

describe('a picture that says how it is turned', () => {
  const [width, height] = [24, 17];
  for (const format of ['jpeg', 'png', 'webp', 'tiff'] as const)
    it(`is seen as meant: ${format}`, async () => {
      for (let orientation = 1; orientation <= 8; orientation++) {
        const made = sharp(smooth(width, height, 3), { raw: { width, height, channels: 3 } }).withMetadata({ orientation });
        const file = await (
          format === 'webp' ? made.webp({ lossless: true }) : format === 'tiff' ? made.tiff({ compression: 'lzw' }) : made[format]()
        ).toBuffer();
        const wanted = await sharp(file).rotate().raw().toBuffer({ resolveWithObject: true });
        const image = await decoded(file);
        expect([image.width, image.height]).withContext(`${orientation}`).toEqual([wanted.info.width, wanted.info.height]);
        expect([probeImage(file).width, probeImage(file).height]).toEqual([image.width, image.height]);
        expect([...image.data])
          .withContext(`${orientation}`)
          .toEqual([...wanted.data]);
        if (format !== 'png') continue;
        const rows = await nodeCodec.openRows(
          (async function* () {
            yield file;
          })(),
          'data',
        );
        expect([rows.width, rows.height]).withContext(`rows of ${orientation}`).toEqual([image.width, image.height]);
        await rows.close();
      }
    });
});

describe('OpenEXR', () => {
  it('of channels that hold different kinds of numbers is refused with a sentence', async () => {
    const file = writeExr(picture(6, 4, 4, real), 2, toHalf);
    // The kind of the first channel in the list, alpha: half instead of float.
    const at = file.findIndex((_, i) => file[i] === 0x41 && file[i + 1] === 0 && file[i + 2] === 2 && file[i + 3] === 0);
    file[at + 2] = 1;
    await expectAsync(decoded(file)).toBeRejectedWithError(FormatError, /different kinds of numbers \(half, float\)\. Save all of them as one/);
  });
});

describe('KTX2', () => {
  const container = (channels: number, data: Uint8Array, said: Record<string, string>) => {
    const c = createDefaultContainer();
    c.vkFormat = { 1: 9, 2: 16, 3: 23, 4: 37 }[channels] as typeof c.vkFormat;
    [c.pixelWidth, c.pixelHeight] = [3, 2];
    c.supercompressionScheme = KHR_SUPERCOMPRESSION_NONE;
    c.levels = [{ levelData: Uint8Array.from(data), uncompressedByteLength: data.length }];
    Object.assign(c.keyValue, said);
    return writeKtx2(c);
  };
  const rows = (data: ArrayLike<number>, channels: number) =>
    Array.from({ length: 2 }, (_, y) =>
      Array.from({ length: 3 }, (_, x) => Array.from({ length: channels }, (_, c) => data[(y * 3 + x) * channels + c])),
    );
  it('is put upright as it says', async () => {
    const data = bytes(18);
    const p = rows(data, 3);
    for (const [orientation, wanted] of [
      ['rd', p],
      ['ru', [p[1], p[0]]],
      ['ld', p.map((row) => row.toReversed())],
      ['lu', [p[1], p[0]].map((row) => row.toReversed())],
    ] as const)
      expect(rows((await decoded(container(3, data, { KTXorientation: orientation }))).data, 3))
        .withContext(orientation)
        .toEqual(wanted);
    await expectAsync(decoded(container(3, data, { KTXorientation: 'xy' }))).toBeRejectedWithError(FormatError, /orientation/);
  });
  it('shows the channels that it says, where it says so', async () => {
    const data = bytes(24);
    const p = rows(data, 4).flat();
    for (const [swizzle, channels, of] of [
      ['rgba', 4, (t: number[]) => t],
      ['bgra', 4, ([r, g, b, a]: number[]) => [b, g, r, a]],
      ['rgb1', 3, ([r, g, b]: number[]) => [r, g, b]],
      ['gggr', 2, ([r, g]: number[]) => [g, r]],
      ['aaa1', 1, ([, , , a]: number[]) => [a]],
      ['a0g1', 3, ([, g, , a]: number[]) => [a, 0, g]],
    ] as const) {
      const file = container(4, data, { KTXswizzle: swizzle });
      const image = await decoded(file);
      expect(probeImage(file).channels).toBe(image.channels);
      expect([image.channels, [...image.data]])
        .withContext(swizzle)
        .toEqual([channels, p.flatMap((t) => of(t))]);
    }
    const grey = bytes(6);
    const one = await decoded(container(1, grey, { KTXswizzle: 'rrr1' }));
    expect([one.channels, ...one.data]).toEqual([1, ...grey]);
  });
});

describe('Radiance', () => {
  it('is divided by every exposure that was applied', async () => {
    const file = writeHdr({ width: 2, height: 1, channels: 3, data: [] }, [128, 64, 0, 129, 10, 20, 30, 137]);
    const text = new TextDecoder('latin1').decode(file).replace('FORMAT', 'EXPOSURE=2\nEXPOSURE= 4.0\nFORMAT');
    const exposed = await decoded(Uint8Array.from(text, (c) => c.charCodeAt(0)));
    const plain = await decoded(file);
    expect([...exposed.data]).toEqual([...plain.data].map((v) => v / 8));
    const bad = Uint8Array.from(text.replace('=2', '=-2'), (c) => c.charCodeAt(0));
    await expectAsync(decoded(bad)).toBeRejectedWithError(FormatError, /exposure/);
  });
});
