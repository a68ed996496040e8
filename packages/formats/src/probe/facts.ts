/** Kinds of image file that are read. */
export const IMAGE_FORMATS = ['png', 'jpeg', 'webp', 'tiff', 'tga', 'exr', 'hdr', 'ktx2'] as const;
export type ImageFormat = (typeof IMAGE_FORMATS)[number];

/** What an image is before its pixels are read. */
export interface ImageFacts {
  format: ImageFormat;
  width: number;
  height: number;
  /** As decoded: palettes count as their colours. */
  channels: 1 | 2 | 3 | 4;
  /** As decoded: half floats become floats. */
  depth: 8 | 16 | 32;
}
