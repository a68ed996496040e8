/** Bytes a block and its size in texels. Sources: Khronos Data Format 1.3; ASTC by its block footprint. */
export const BLOCK_FORMATS = {
  BC1: { bytes: 8, width: 4, height: 4 },
  BC3: { bytes: 16, width: 4, height: 4 },
  BC4: { bytes: 8, width: 4, height: 4 },
  BC5: { bytes: 16, width: 4, height: 4 },
  BC7: { bytes: 16, width: 4, height: 4 },
  R8: { bytes: 1, width: 1, height: 1 },
  RG8: { bytes: 2, width: 1, height: 1 },
  R16: { bytes: 2, width: 1, height: 1 },
  RGBA8: { bytes: 4, width: 1, height: 1 },
  RGBA16: { bytes: 8, width: 1, height: 1 },
} as const;
export type BlockFormat = keyof typeof BLOCK_FORMATS;

/** Memory of a texture with all its mips from level `drop` down: `Σ ceil(w/bw) · ceil(h/bh) · B`. */
export function textureBytes(width: number, height: number, format: BlockFormat, drop = 0): number {
  const block = BLOCK_FORMATS[format];
  let bytes = 0;
  for (let l = 0; width >> l || height >> l; l++) {
    if (l < drop) continue;
    const w = Math.max(1, width >> l);
    const h = Math.max(1, height >> l);
    bytes += Math.ceil(w / block.width) * Math.ceil(h / block.height) * block.bytes;
  }
  return bytes;
}
