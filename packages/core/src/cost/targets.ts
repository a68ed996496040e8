import type { BlockFormat } from './memory';

/** A runtime profile: what one material may cost there. */
export interface Target {
  name: string;
  samples: number;
  operations: number;
  memoryBytes: number;
  /** Longest side of a texture. */
  maxSize: number;
}

export const TARGETS: Record<string, Target> = {
  desktop: { name: 'Desktop', samples: 24, operations: 900, memoryBytes: 192 * 2 ** 20, maxSize: 4096 },
  handheld: { name: 'Handheld', samples: 16, operations: 700, memoryBytes: 64 * 2 ** 20, maxSize: 2048 },
};

/** The block format of each packed texture of a blend at runtime. */
export const PACKED_FORMATS: Record<'colour' | 'shape' | 'height' | 'rare', BlockFormat> = {
  colour: 'BC7',
  shape: 'BC7',
  height: 'BC4',
  rare: 'BC4',
};
