/** Bytes a block and its size in texels. Sources: Khronos Data Format 1.3; ASTC by its block footprint. */
const block = (bytes: number, width = 4, height = width) => ({ bytes, width, height });
export const BLOCK_FORMATS = {
  BC1: block(8),
  BC3: block(16),
  BC4: block(8),
  BC5: block(16),
  BC6H: block(16),
  BC7: block(16),
  ETC2_RGB: block(8),
  ETC2_RGBA: block(16),
  EAC_R11: block(8),
  EAC_RG11: block(16),
  ASTC_4x4: block(16, 4),
  ASTC_6x6: block(16, 6),
  ASTC_8x8: block(16, 8),
  R8: block(1, 1),
  RG8: block(2, 1),
  R16: block(2, 1),
  RGBA8: block(4, 1),
  RGBA16: block(8, 1),
  RGBA16F: block(8, 1),
} as const;
export type BlockFormat = keyof typeof BLOCK_FORMATS;
export const FORMATS = Object.keys(BLOCK_FORMATS) as BlockFormat[];

/** Memory of a texture with its mips from level `drop` to `last`: `Σ ceil(w/bw) · ceil(h/bh) · B`. */
export function textureBytes(width: number, height: number, format: BlockFormat, drop = 0, last = Infinity): number {
  const block = BLOCK_FORMATS[format];
  let bytes = 0;
  for (let l = 0; (width >> l || height >> l) && l <= last; l++) {
    if (l < drop) continue;
    const w = Math.max(1, width >> l);
    const h = Math.max(1, height >> l);
    bytes += Math.ceil(w / block.width) * Math.ceil(h / block.height) * block.bytes;
  }
  return bytes;
}

/** Whether a block format can hold a picture of this size at its largest level: BC asks for whole blocks. */
export const fitsBlocks = (width: number, height: number, format: BlockFormat): boolean =>
  !format.startsWith('BC') || (width % 4 === 0 && height % 4 === 0);
