import type { BlockFormat, Ktx2Kind, RecipeFile, TextureFile } from '@pebble/core';
import { KTX2_KINDS, TEXTURE_FILE_KINDS, textureBytes } from '@pebble/core';
import type { PlannedFile } from '@pebble/usecases';

/** What is said of a kind of file where it is chosen. */
const MEANS: Record<Exclude<TextureFile, 'ktx2'>, string> = {
  png: 'Every bit, made small; 8 or 16 of them',
  tga: 'Every bit, 8 a channel, as it is',
  tiff: 'Every bit, made small; 8 or 16 of them',
  jpg: 'Lossy: colours alone, unless data may be changed',
};
const BLOCKS: Record<Ktx2Kind | 'target', string> = {
  target: 'As the target keeps such maps, with all smaller levels',
  plain: 'Every bit, with all smaller levels',
  BC1: 'Four bits a texel, three channels',
  BC3: 'Eight bits a texel, alpha by itself',
  BC4: 'Four bits a texel, one channel',
  BC5: 'Eight bits a texel, two channels: directions',
  BC7: 'Eight bits a texel, four channels, nearest to what was meant',
  UASTC: 'Universal: a device turns it into its own blocks',
  ETC1S: 'Universal and smallest, for what is seen from afar',
};

/** Ways in which a file is written, by one value each. */
export const FILE_WAYS: readonly { value: string; name: string; means: string }[] = [
  ...TEXTURE_FILE_KINDS.flatMap((kind) => (kind === 'ktx2' ? [] : [{ value: kind, name: kind.toUpperCase(), means: MEANS[kind] }])),
  { value: 'jpg!', name: 'JPG, data too', means: 'Lossy, and what is data is changed as well' },
  ...(['target', ...KTX2_KINDS] as const).map((block) => ({
    value: `ktx2 ${block}`,
    name: block === 'target' ? 'KTX2 by target' : `KTX2 ${block}`,
    means: BLOCKS[block],
  })),
];

/** How a file is written, as one of the ways. */
export const wayOfFile = ({ as = 'png', block = 'plain', lossy }: RecipeFile): string =>
  as === 'ktx2' ? `ktx2 ${block}` : as === 'jpg' && lossy ? 'jpg!' : as;

/** Writes a file that way; what is usual is not written down. */
export function putWay(file: RecipeFile, value: string): void {
  const [kind, block] = value.split(' ') as [string, RecipeFile['block'] | undefined];
  for (const key of ['as', 'block', 'mips', 'lossy'] as const) delete file[key];
  if (kind === 'jpg!') Object.assign(file, { as: 'jpg', lossy: true });
  else if (kind !== 'png') file.as = kind as TextureFile;
  if (block) file.block = block;
}

/** Of what a PNG takes, a JPEG of the same picture, roughly. */
export const JPEG_SHARE = 0.3;
/** What universal blocks become, and about what they are packed to in the file. */
const PACKED: Record<'UASTC' | 'ETC1S', { as: BlockFormat; share: number }> = { UASTC: { as: 'BC7', share: 0.75 }, ETC1S: { as: 'BC1', share: 0.4 } };

/** Bytes of a KTX2 file: its levels to the byte where they are blocks of hardware or plain. */
export function blockBytes({ way: { block, mips }, width, height, channels, depth }: PlannedFile): number {
  const last = mips ? Infinity : 0;
  if (block === 'UASTC' || block === 'ETC1S') return Math.round(textureBytes(width, height, PACKED[block].as, 0, last) * PACKED[block].share);
  if (block !== 'plain') return textureBytes(width, height, block, 0, last);
  return (textureBytes(width, height, 'R8', 0, last) * channels * depth) / 8;
}
