import { CpuProgram, optimise } from '../compile';
import type { Domain, Sources, Tile } from '../compile';
import type { Image } from '../image';
import { makeImage, makeSamples, srgbByte } from '../image';
import type { BlendRole, SurfaceFacts } from '../surface';
import { BLEND_ROLES, ROLE_FACTS } from '../surface';
import { lowerBlend } from './lower';
import type { Stack } from './stack';
import { stackValues } from './stack';

export interface BlendMapsOptions {
  domain: Domain;
  sources: Sources;
  roles?: readonly BlendRole[];
  /** Read mip levels: wanted when the picture has fewer texels than the sources it shows. */
  far?: boolean;
  /** Rows to evaluate, `[first, end)`; bands of several workers write into the same images. */
  rows?: readonly [number, number];
  /** Images to write into, as made by `makeBlendMaps`. */
  into: Partial<Record<BlendRole, Image>>;
  onTile?: (done: number) => void;
}

/** Size and relief of the surface that a blend evaluates to: its height map spans the bounds of the stack. */
export const blendFacts = (stack: Stack): SurfaceFacts => ({
  sizeM: stack.extentM,
  reliefM: stack.hi - stack.lo,
  mid: -stack.lo / (stack.hi - stack.lo),
});

/** Empty maps for the result: 8-bit, height 16-bit. `shared` lets several workers fill them. */
export function makeBlendMaps(
  width: number,
  height: number,
  roles: readonly BlendRole[] = BLEND_ROLES,
  shared = false,
): Partial<Record<BlendRole, Image>> {
  return Object.fromEntries(
    roles.map((role) => {
      const { components, colourSpace } = ROLE_FACTS[role];
      const depth = role === 'height' ? 16 : 8;
      return [
        role,
        makeImage({ width, height, channels: components, depth, colourSpace, data: makeSamples(depth, width * height * components, shared) }),
      ];
    }),
  );
}

/** Evaluates a blend to maps, tile by tile: memory beyond sources and result is that of a few planes of a tile. */
export function evaluateBlend(stack: Stack, options: BlendMapsOptions): void {
  const roles = options.roles ?? (Object.keys(options.into) as BlendRole[]);
  const lowered = lowerBlend(stack, { far: options.far });
  const { outputs } = optimise(Object.fromEntries(roles.map((role) => [role, lowered.channels[role]])));
  const { lo, hi } = stack;
  new CpuProgram(outputs).run(
    { domain: options.domain, sources: options.sources, values: stackValues(stack), rows: options.rows, onTile: options.onTile },
    (tile, planes) => {
      for (const role of roles) writeTile(role, tile, planes(role), options.into[role] as Image, lo, hi);
    },
  );
}

function writeTile(role: BlendRole, tile: Tile, planes: Float32Array[], image: Image, lo: number, hi: number): void {
  const { data, channels, width } = image;
  const scale = 1 / (hi - lo);
  for (let c = 0; c < channels; c++) {
    const plane = planes[c];
    let i = 0;
    for (let y = tile.y; y < tile.y + tile.height; y++) {
      let at = (y * width + tile.x) * channels + c;
      for (let x = 0; x < tile.width; x++, at += channels, i++) {
        const v = plane[i];
        if (role === 'baseColor') data[at] = srgbByte(v);
        else if (role === 'height') data[at] = Math.min(65535, Math.max(0, (v - lo) * scale * 65535)) + 0.5;
        else data[at] = Math.min(255, Math.max(0, (role === 'normal' ? v * 0.5 + 0.5 : v) * 255)) + 0.5;
      }
    }
  }
}
