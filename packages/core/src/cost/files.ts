import type { BlockFormat } from './memory';

/** Kinds of file that textures are written as: the bits that each holds, whether something is lost, whether it holds smaller levels. */
export const TEXTURE_FILES = {
  png: { depths: [8, 16], lossy: false, mips: false },
  tga: { depths: [8], lossy: false, mips: false },
  tiff: { depths: [8, 16], lossy: false, mips: false },
  jpg: { depths: [8], lossy: true, mips: false },
  ktx2: { depths: [8, 16], lossy: false, mips: true },
} as const;
export type TextureFile = keyof typeof TEXTURE_FILES;
export const TEXTURE_FILE_KINDS = Object.keys(TEXTURE_FILES) as TextureFile[];

/** How texels are kept in a KTX2 file. */
export const KTX2_KINDS = ['plain', 'BC1', 'BC3', 'BC4', 'BC5', 'BC7', 'UASTC', 'ETC1S'] as const;
export type Ktx2Kind = (typeof KTX2_KINDS)[number];
/** Channels that a kind keeps; the rest is left out. */
export const KTX2_CHANNELS: Readonly<Record<Ktx2Kind, 1 | 2 | 3 | 4>> = { plain: 4, BC1: 3, BC3: 4, BC4: 1, BC5: 2, BC7: 4, UASTC: 4, ETC1S: 4 };

/** In what a target's format is delivered: blocks as they are, or universal ones that its driver turns into them. */
const DELIVERED: Readonly<Record<BlockFormat, Ktx2Kind>> = {
  BC1: 'BC1',
  BC3: 'BC3',
  BC4: 'BC4',
  BC5: 'BC5',
  BC6H: 'plain',
  BC7: 'BC7',
  ETC2_RGB: 'ETC1S',
  ETC2_RGBA: 'ETC1S',
  EAC_R11: 'UASTC',
  EAC_RG11: 'UASTC',
  ASTC_4x4: 'UASTC',
  ASTC_6x6: 'UASTC',
  ASTC_8x8: 'UASTC',
  R8: 'plain',
  RG8: 'plain',
  R16: 'plain',
  RGBA8: 'plain',
  RGBA16: 'plain',
  RGBA16F: 'plain',
};

/**
 * How a texture of some channels is kept for a target that keeps one of its maps as `format`: where that holds too few channels,
 * as the target keeps colours; what colours cannot be held by either is plain.
 */
export function keptAs(format: BlockFormat, colours: BlockFormat, channels: 1 | 2 | 3 | 4): Ktx2Kind {
  return [format, colours].map((f) => DELIVERED[f]).find((kind) => KTX2_CHANNELS[kind] >= channels) ?? 'plain';
}
/** Whether texels are changed by being kept so. */
export const isLossyKind = (kind: Ktx2Kind): boolean => kind !== 'plain';
