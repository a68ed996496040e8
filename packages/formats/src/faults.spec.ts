import { MAX_SIDE, makeRandom, toHalf } from '@pebble/core';
import { createDefaultContainer, write as writeKtx2 } from 'ktx-parse';
import sharp from 'sharp';
import { FormatError } from './index';
import { nodeCodec } from './node';
import { seededSamples } from './testing/samples';
import { writeExr, writeHdr, writeTga, writeTiff } from './testing/writers';

/** Faults a kind: a hundred usually, a thousand in `npm run test:deep`. */
const FAULTS = Number(process.env['PEBBLE_FAULTS'] ?? 100);

const { next, bytes, picture, byte, word, real } = seededSamples(78);

describe('files of every kind', () => {
  const samples = async (): Promise<Record<string, Uint8Array>> => {
    const raw = (channels: 3 | 4) => sharp(bytes(24 * 18 * channels), { raw: { width: 24, height: 18, channels } });
    const p = (channels: number, of: () => number) => picture(24, 18, channels, of);
    const ktx = createDefaultContainer();
    Object.assign(ktx, {
      vkFormat: 37,
      pixelWidth: 24,
      pixelHeight: 18,
      levels: [{ levelData: bytes(24 * 18 * 4), uncompressedByteLength: 24 * 18 * 4 }],
    });
    return {
      png: await raw(4).png().toBuffer(),
      jpeg: await raw(3).jpeg().toBuffer(),
      webp: await raw(3).webp({ lossless: true }).toBuffer(),
      tiff: writeTiff(p(3, word), 16),
      'float tiff': writeTiff(p(1, real), 32),
      tga: writeTga(
        p(3, () => Math.floor(next() * 2) * 99),
        { runs: true },
      ),
      exr: writeExr(p(3, real), 1, toHalf),
      'tiled exr': writeExr(p(4, real), 2, toHalf, 8),
      hdr: writeHdr(
        p(3, byte),
        Array.from({ length: 24 * 18 * 4 }, () => 100 + Math.floor(next() * 3)),
      ),
      ktx2: writeKtx2(ktx),
    };
  };
  const settles = async (file: Uint8Array): Promise<'read' | FormatError> =>
    nodeCodec.decode(file, 'data').then(
      () => 'read' as const,
      (error) => error as FormatError,
    );
  it('cut off anywhere end in an error that says so, or in a picture, never in anything else', async () => {
    for (const [kind, file] of Object.entries(await samples()))
      for (let k = 0; k < 12; k++) {
        const outcome = await settles(file.slice(0, Math.floor((file.length * k) / 12)));
        if (outcome !== 'read')
          expect(outcome)
            .withContext(`${kind}, ${k}/12: ${String(outcome)}`)
            .toBeInstanceOf(FormatError);
      }
  });
  it(`with ${FAULTS} seeded faults each end in a typed error or a picture`, async () => {
    for (const [kind, file] of Object.entries(await samples())) {
      const random = makeRandom(kind.length * 31 + file.length);
      for (let k = 0; k < FAULTS; k++) {
        const broken = file.slice();
        // Most of what decides stands near the front.
        for (let f = 0; f < 1 + (k % 4); f++)
          broken[Math.floor(random() * (random() < 0.6 ? Math.min(200, broken.length) : broken.length))] ^= 1 << Math.floor(random() * 8);
        const outcome = await settles(broken);
        if (outcome !== 'read')
          expect(outcome)
            .withContext(`${kind}, fault ${k}: ${(outcome as Error).stack}`)
            .toBeInstanceOf(FormatError);
      }
    }
  }, 1_800_000);
  it('that claim more than any picture are refused before memory is asked for', async () => {
    const huge = writeTga(picture(2, 2, 3, byte));
    huge.set([0xff, 0xff, 0xff, 0xff], 12);
    expect(await settles(huge)).toEqual(jasmine.objectContaining({ code: 'too-large', message: jasmine.stringContaining(`limit of ${MAX_SIDE}`) }));
    const claimed = writeTga(picture(2, 2, 3, byte));
    claimed.set([0x00, 0x40, 0x00, 0x40], 12);
    expect(await settles(claimed)).toEqual(jasmine.objectContaining({ code: 'truncated' }));
  });
});
