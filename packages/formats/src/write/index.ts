// Files out, on Node: what the ending of a name says is what the bytes are.
import type { Image, Ktx2Kind, TextureFile } from '@pebble/core';
import { TEXTURE_FILES } from '@pebble/core';
import type { CreateRaw } from 'sharp';
import sharp from 'sharp';
import { FormatError } from '../codec';
import { nodeCodec } from '../node';
import { writeKtx2 } from './ktx2';
import { writeTga } from './tga';

export * from './ktx2';

/** The kind of file that a name ends in; null for one that is not written. */
export function textureFileOf(name: string): TextureFile | null {
  const ending = /\.([^.]+)$/.exec(name.toLowerCase())?.[1] ?? '';
  const plain = { tif: 'tiff', jpeg: 'jpg' }[ending] ?? ending;
  return Object.hasOwn(TEXTURE_FILES, plain) ? (plain as TextureFile) : null;
}

export interface TextureOptions {
  /** How texels of KTX2 are kept. */
  block?: Ktx2Kind;
  /** Directions, whose smaller levels are of unit length. */
  directions?: boolean;
}

/** Of JPEG: what its makers call nearly without loss. */
const JPEG_QUALITY = 95;

/**
 * A texture as a file.
 * @param levels the largest first; kinds without levels hold it alone
 * @throws FormatError for a depth or a number of channels that the kind does not hold
 */
export async function writeTexture(
  levels: readonly Image[],
  kind: TextureFile,
  { block = 'plain', directions }: TextureOptions = {},
): Promise<Uint8Array> {
  const [image] = levels;
  const { width, height, channels, depth, data } = image;
  const { depths } = TEXTURE_FILES[kind];
  if (!(depths as readonly number[]).includes(depth))
    throw new FormatError('unsupported', `${kind.toUpperCase()} holds ${depths.join(' or ')} bits, not ${depth === 32 ? 'float' : depth}`);
  if (kind === 'ktx2' && block !== 'plain' && depth !== 8)
    throw new FormatError('unsupported', `Blocks of ${block} are made of 8 bits, not ${depth}. Give the file 8 bits, or keep it plain`);
  if (kind === 'png') return nodeCodec.encode(image);
  if (kind === 'tga') return writeTga(image);
  if (kind === 'ktx2') return writeKtx2(levels, { kind: block, directions });
  if (kind === 'jpg' && channels === 4) throw new FormatError('unsupported', 'JPEG holds no alpha. Write PNG or KTX2, or route alpha elsewhere');
  const raw = sharp(data as Uint8Array, {
    raw: { width, height, channels, ...(depth === 16 ? { depth: 'ushort' } : {}) } as CreateRaw,
  }).toColourspace(channels < 3 ? (depth === 16 ? 'grey16' : 'b-w') : depth === 16 ? 'rgb16' : 'srgb');
  const made =
    kind === 'jpg' ? raw.jpeg({ quality: JPEG_QUALITY, chromaSubsampling: '4:4:4' }) : raw.tiff({ compression: 'deflate', predictor: 'horizontal' });
  return new Uint8Array(await made.toBuffer());
}
