import type { Image } from '../image';
import { makeImage, srgbByte } from '../image';
import { clay, gravel, moss, stone } from './sketches';
import type { Sketch, Spot } from './sketches';
import { normalsFromHeight, occlusionFromHeight } from './relief';
import type { BlendRole, SurfaceFacts } from './roles';

export interface GeneratorFacts extends SurfaceFacts {
  title: string;
  sketch: Sketch;
}

/** Surfaces made by our own code. Each fills its whole relief: no plateaus at 0 or 1. */
export const GENERATORS = {
  'laterite-clay': { title: 'Laterite clay', sizeM: 2, reliefM: 0.034, mid: 0.5, sketch: clay },
  'terrace-stone': { title: 'Terrace stone', sizeM: 2.4, reliefM: 0.048, mid: 0.5, sketch: stone },
  'cushion-moss': { title: 'Cushion moss', sizeM: 1.2, reliefM: 0.046, mid: 0.5, sketch: moss },
  'river-gravel': { title: 'River gravel', sizeM: 1.2, reliefM: 0.04, mid: 0.5, sketch: gravel },
} as const satisfies Record<string, GeneratorFacts>;
export type GeneratorName = keyof typeof GENERATORS;
export const isGeneratorName = (text: string): text is GeneratorName => Object.hasOwn(GENERATORS, text);

export interface GeneratedSurface {
  name: GeneratorName;
  seed: number;
  facts: SurfaceFacts;
  maps: Record<BlendRole, Image>;
}

export interface GenerateOptions {
  seed: number;
  /** Side of the square maps in pixels, 1 to 16384. */
  size: number;
  /** Called with 0–1 while the pixels are drawn. */
  onProgress?: (done: number) => void;
}

/**
 * Draws a surface: base colour, normal, roughness, occlusion and metallic with 8 bits, height with 16. Tileable;
 * the same name, seed and size give the same samples anywhere.
 */
export function generateSurface(name: GeneratorName, options: GenerateOptions): GeneratedSurface {
  const { seed, size, onProgress } = options;
  const facts: GeneratorFacts = GENERATORS[name];
  const map = (channels: number, srgb = false, depth: 8 | 16 = 8) =>
    makeImage({ width: size, height: size, channels, depth, colourSpace: srgb ? 'srgb' : 'data' });
  const maps = { baseColor: map(3, true), normal: map(3), roughness: map(1), occlusion: map(1), metallic: map(1), height: map(1, false, 16) };
  const heightM = new Float32Array(size * size);
  const spot: Spot = { h: 0, r: 0, g: 0, b: 0, rough: 0, metal: 0 };
  for (let y = 0; y < size; y++) {
    if (y % 64 === 0) onProgress?.((0.85 * y) / size);
    for (let x = 0; x < size; x++) {
      facts.sketch((x + 0.5) / size, (y + 0.5) / size, seed, spot);
      const i = y * size + x;
      const stored = Math.round(clamp01(spot.h) * 65535);
      maps.height.data[i] = stored;
      // The other maps belong to the height that is stored, not to one nobody keeps.
      heightM[i] = (stored / 65535 - facts.mid) * facts.reliefM;
      maps.baseColor.data[i * 3] = srgbByte(spot.r);
      maps.baseColor.data[i * 3 + 1] = srgbByte(spot.g);
      maps.baseColor.data[i * 3 + 2] = srgbByte(spot.b);
      maps.roughness.data[i] = byte(clamp01(spot.rough));
      maps.metallic.data[i] = byte(clamp01(spot.metal));
    }
  }
  const texelM = facts.sizeM / size;
  const normals = normalsFromHeight(heightM, size, size, texelM);
  for (let i = 0; i < normals.length; i++) maps.normal.data[i] = byte(normals[i] * 0.5 + 0.5);
  onProgress?.(0.92);
  const occlusion = occlusionFromHeight(heightM, size, size, texelM);
  for (let i = 0; i < occlusion.length; i++) maps.occlusion.data[i] = byte(occlusion[i]);
  onProgress?.(1);
  return { name, seed, facts: { sizeM: facts.sizeM, reliefM: facts.reliefM, mid: facts.mid }, maps };
}

const clamp01 = (v: number) => Math.min(1, Math.max(0, v));
const byte = (v: number) => Math.floor(v * 255 + 0.5);
