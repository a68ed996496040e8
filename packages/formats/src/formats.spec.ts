import type { Image } from '@pebble/core';
import { makeImage, makeRandom } from '@pebble/core';
import { unzipSync } from 'fflate';
import { encode as fastEncode } from 'fast-png';
import { crc32 } from 'hash-wasm';
import { deflateSync } from 'node:zlib';
import sharp from 'sharp';
import upng from 'upng-js';
import { FormatError, probeImage, sha256, zipStream } from './index';
import { nodeCodec } from './node';
import { webCodec } from './web';

function randomImage(width: number, height: number, channels: number, depth: 8 | 16, seed = 1): Image {
  const next = makeRandom(seed);
  const image = makeImage({ width, height, channels, depth });
  for (let i = 0; i < image.data.length; i++) image.data[i] = Math.floor(next() * (depth === 8 ? 256 : 65536));
  return image;
}
const rejects = async (run: Promise<unknown>, code: string) =>
  run.then(
    () => fail('nothing was thrown'),
    (e) => {
      expect(e).toBeInstanceOf(FormatError);
      expect(e.code).toBe(code);
    },
  );

for (const [where, codec, other] of [
  ['node', nodeCodec, webCodec],
  ['web', webCodec, nodeCodec],
] as const)
  describe(`the ${where} codec`, () => {
    for (const channels of [1, 2, 3, 4])
      for (const depth of [8, 16] as const)
        for (const [w, h] of [
          [1, 1],
          [17, 5],
        ])
          it(`keeps every sample of ${w} × ${h}, ${channels} channels, ${depth} bit`, async () => {
            const image = randomImage(w, h, channels, depth);
            const png = await codec.encode(image);
            expect(probeImage(png)).toEqual({ format: 'png', width: w, height: h, channels: channels as 1, depth });
            for (const reader of [codec, other]) {
              const back = await reader.decode(png, 'data');
              expect([back.width, back.height, back.channels, back.depth]).toEqual([w, h, channels as 1, depth]);
              expect([...back.data]).toEqual([...image.data]);
            }
          });
    it('agrees with a third reader on RGBA', async () => {
      const image = randomImage(9, 7, 4, 8, 5);
      const png = await codec.encode(image);
      expect([...new Uint8Array(upng.toRGBA8(upng.decode(Uint8Array.from(png).buffer))[0])]).toEqual([...image.data]);
    });
    it('gives the same bytes for the same image', async () => {
      const image = randomImage(20, 20, 3, 8);
      expect(await codec.encode(image)).toEqual(await codec.encode(image));
    });
    it('turns palettes into colours, with their transparency', async () => {
      const palette = [
        [255, 0, 0, 255],
        [0, 255, 0, 128],
        [0, 0, 255, 255],
      ] as never;
      const png = fastEncode({ width: 3, height: 1, channels: 1, depth: 8, data: Uint8Array.of(2, 1, 0), palette });
      expect(png.length).toBeGreaterThan(0);
      const rgb = await sharp(Buffer.from([255, 0, 0, 0, 255, 0, 0, 0, 255]), { raw: { width: 3, height: 1, channels: 3 } })
        .png({ palette: true })
        .toBuffer();
      expect(rgb[25]).toBe(3);
      const image = await codec.decode(rgb, 'srgb');
      expect([...image.data]).toEqual([255, 0, 0, 0, 255, 0, 0, 0, 255]);
      expect(image.channels).toBe(3);
    });
    it('spreads low bit depths over the whole range', async () => {
      const two = await sharp(Buffer.from([0, 255, 255, 0, 255]), { raw: { width: 5, height: 1, channels: 1 } })
        .toColourspace('b-w')
        .png({ bitdepth: 1, palette: false } as never)
        .toBuffer();
      const image = await codec.decode(two, 'data');
      expect([...image.data].filter((_, i) => i % image.channels === 0)).toEqual([0, 255, 255, 0, 255]);
    });
    it('says what is wrong with empty, foreign, cut-off and damaged files', async () => {
      const png = await nodeCodec.encode(randomImage(64, 64, 3, 8));
      await rejects(codec.decode(new Uint8Array(), 'data'), 'empty');
      await rejects(codec.decode(Buffer.from('GIF89a and so on, by another name'), 'data'), 'unknown-format');
      await rejects(codec.decode(png.subarray(0, 20), 'data'), 'truncated');
      for (const part of [0.3, 0.9])
        await codec.decode(png.subarray(0, Math.floor(png.length * part)), 'data').then(
          () => fail('read'),
          (e) => expect(['truncated', 'corrupt']).toContain(e.code),
        );
      const huge = Uint8Array.from(png);
      new DataView(huge.buffer).setUint32(16, 16385);
      await rejects(codec.decode(huge, 'data'), 'too-large');
    });
  });

describe('the node codec', () => {
  it('reads JPEG in colour and grey', async () => {
    const raw = { width: 16, height: 8, channels: 3 } as const;
    const jpeg = await sharp(Buffer.alloc(16 * 8 * 3, 100), { raw })
      .jpeg({ quality: 95 })
      .toBuffer();
    expect(probeImage(jpeg)).toEqual({ format: 'jpeg', width: 16, height: 8, channels: 3, depth: 8 });
    const image = await nodeCodec.decode(jpeg, 'srgb');
    expect(Math.abs(image.data[10] - 100)).toBeLessThan(3);
    const grey = await sharp(jpeg).toColourspace('b-w').jpeg().toBuffer();
    expect((await nodeCodec.decode(grey, 'data')).channels).toBe(1);
    await rejects(webCodec.decode(jpeg, 'srgb'), 'unsupported');
    await nodeCodec.decode(jpeg.subarray(0, jpeg.length - 40), 'srgb').then(
      () => fail('read'),
      (e) => expect(e).toBeInstanceOf(FormatError),
    );
  });
  it('does not let an embedded profile change data', async () => {
    const image = randomImage(8, 8, 3, 8, 9);
    const tagged = await sharp(image.data, { raw: { width: 8, height: 8, channels: 3 } })
      .withIccProfile('p3', { attach: true })
      .png()
      .toBuffer();
    const plain = await webCodec.decode(tagged, 'data');
    expect([...(await nodeCodec.decode(tagged, 'data')).data]).toEqual([...plain.data]);
  });
});

describe('reading by rows', () => {
  /** Bytes in pieces of any size, noting whether the reader was left. */
  const stream = (bytes: Uint8Array, piece = 37) => {
    const state = { left: false };
    const source = (async function* () {
      try {
        for (let at = 0; at < bytes.length; at += piece) yield bytes.subarray(at, at + piece);
      } finally {
        state.left = true;
      }
    })();
    return { source, state };
  };
  const readAll = async (bytes: Uint8Array, step: number, piece?: number) => {
    const image = await nodeCodec.openRows(stream(bytes, piece).source, 'data');
    const parts: number[] = [];
    try {
      for (let y = 0; y < image.height; y += step) parts.push(...(await image.rows(y, Math.min(image.height, y + step))));
    } finally {
      await image.close();
    }
    return { image, parts };
  };
  it('gives the samples of the whole decoder, for every kind of file and every row filter', async () => {
    const smooth = (channels: number, depth: 8 | 16): Image => {
      const image = randomImage(61, 47, channels, depth, 3);
      for (let i = 0; i < image.data.length; i++)
        image.data[i] = (image.data[i] >> 6) + ((i * (depth === 8 ? 3 : 700)) % (depth === 8 ? 200 : 60000));
      return image;
    };
    for (const depth of [8, 16] as const)
      for (const channels of [1, 2, 3, 4] as const) {
        const image = smooth(channels, depth);
        for (const png of [await nodeCodec.encode(image), fastEncode({ ...image, data: image.data as Uint8Array, depth })]) {
          const { image: shape, parts } = await readAll(png, 5);
          expect([shape.width, shape.height, shape.channels, shape.depth]).toEqual([61, 47, channels, depth]);
          expect(parts)
            .withContext(`${channels} channels, ${depth} bit`)
            .toEqual([...image.data]);
        }
      }
    const filters = new Set<number>();
    for (let seed = 1; seed < 6; seed++) {
      const image = smooth(3, 8);
      const rows = await filteredByTurns(image, seed);
      rows.used.forEach((f) => filters.add(f));
      expect((await readAll(rows.png, 4, 1000)).parts).toEqual([...image.data]);
      expect([...(await nodeCodec.decode(rows.png, 'data')).data]).toEqual([...image.data]);
    }
    expect([...filters].sort()).toEqual([0, 1, 2, 3, 4]);
  });
  it('hands palettes, interlaced files and JPEG to the whole decoder', async () => {
    const raw = { raw: { width: 16, height: 16, channels: 3 as const } };
    const pixels = Buffer.alloc(16 * 16 * 3, 90);
    for (const file of [
      await sharp(pixels, raw).png({ palette: true }).toBuffer(),
      await sharp(pixels, raw).png({ progressive: true }).toBuffer(),
      await sharp(pixels, raw).jpeg({ quality: 100 }).toBuffer(),
    ]) {
      const { parts } = await readAll(file, 3);
      expect(parts).toEqual([...(await nodeCodec.decode(file, 'data')).data]);
    }
  });
  it('says what is wrong with damaged files, wherever the damage lies', async () => {
    const png = await nodeCodec.encode(randomImage(200, 100, 3, 8));
    for (let at = 40; at < png.length; at += 997) {
      await rejects(readAll(png.subarray(0, at), 10), 'truncated');
      const hurt = Uint8Array.from(png);
      hurt[at] ^= 0x10;
      // A changed length runs over the end; any other change shows in a sum.
      await readAll(hurt, 10).then(
        () => fail(`damage at ${at} was not seen`),
        (e) => expect(['corrupt', 'truncated']).toContain(e.code),
      );
    }
    await rejects(readAll(new Uint8Array(), 1), 'empty');
  });
  it('leaves its source when it is closed before the end', async () => {
    const { source, state } = stream(await nodeCodec.encode(randomImage(300, 300, 3, 8)), 100);
    const image = await nodeCodec.openRows(source, 'data');
    await image.rows(0, 2);
    expect(state.left).toBeFalse();
    await image.close();
    expect(state.left).toBeTrue();
  });
});

/** A PNG whose rows are filtered by all five rules in turn, by the definitions of the standard. */
async function filteredByTurns(image: Image, seed: number): Promise<{ png: Uint8Array; used: number[] }> {
  const { width, height, channels } = image;
  const perRow = width * channels;
  const used: number[] = [];
  const raw = Buffer.alloc(height * (perRow + 1));
  const at = (x: number, y: number) => (x < 0 || y < 0 ? 0 : image.data[y * perRow + x]);
  for (let y = 0; y < height; y++) {
    const filter = (y * seed + seed) % 5;
    used.push(filter);
    raw[y * (perRow + 1)] = filter;
    for (let x = 0; x < perRow; x++) {
      const [a, b, c] = [at(x - channels, y), at(x, y - 1), x < channels ? 0 : at(x - channels, y - 1)];
      const p = a + b - c;
      const nearest = [a, b, c].reduce((best, v) => (Math.abs(p - v) < Math.abs(p - best) ? v : best));
      raw[y * (perRow + 1) + 1 + x] = (at(x, y) - [0, a, b, (a + b) >> 1, nearest][filter]) & 255;
    }
  }
  const whole = await nodeCodec.encode(image);
  const body = deflateSync(raw);
  const idat = Buffer.alloc(12 + body.length);
  idat.writeUInt32BE(body.length);
  idat.write('IDAT', 4, 'latin1');
  body.copy(idat, 8);
  idat.writeUInt32BE(parseInt(await crc32(idat.subarray(4, 8 + body.length)), 16), 8 + body.length);
  return { png: Buffer.concat([whole.subarray(0, 33), idat, whole.subarray(whole.length - 12)]), used };
}

describe('zip and hash', () => {
  it('streams entries one at a time, the same bytes each time', async () => {
    const make = async () => {
      const parts: Uint8Array[] = [];
      let open = 0;
      const entries = ['a.png', 'b.txt'].map((name) => ({
        name,
        content: function* () {
          open++;
          yield Buffer.from('content of ');
          yield Buffer.from(name);
        },
      }));
      for await (const chunk of zipStream(entries)) {
        parts.push(chunk);
        expect(open).toBeLessThanOrEqual(2);
      }
      return Buffer.concat(parts);
    };
    const zip = await make();
    expect(Buffer.from(unzipSync(zip)['b.txt']).toString()).toBe('content of b.txt');
    expect(Buffer.compare(zip, await make())).toBe(0);
  });
  it('hashes as FIPS 180-4 says', async () =>
    expect(await sha256(Buffer.from('abc'))).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad'));
});
