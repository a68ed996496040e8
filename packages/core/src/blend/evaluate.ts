import { CpuProgram, optimise } from '../compile';
import type { Builder, DagNode, Domain, Sources, Tile } from '../compile';
import type { Image } from '../image';
import { makeImage, makeSamples, srgbByte } from '../image';
import type { BlendRole, SurfaceFacts } from '../surface';
import { BLEND_ROLES, ROLE_FACTS } from '../surface';
import { lowerBlend } from './lower';
import type { Stack } from './stack';
import type { Standing } from './values';
import { stackValues } from './values';

export interface BlendMapsOptions {
  domain: Domain;
  sources: Sources;
  roles?: readonly BlendRole[];
  /** Read mip levels: wanted when the picture has fewer texels than the sources it shows. */
  far?: boolean;
  /** Rows to evaluate, `[first, end)`; bands of several workers write into the same images. */
  rows?: readonly [number, number];
  standing?: Standing;
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
  const { builder, channels } = lowerBlend(stack, { far: options.far });
  const { outputs } = optimise(Object.fromEntries(roles.map((role) => [role, stored(builder, role, channels[role], stack)])));
  new CpuProgram(outputs).run(
    {
      domain: options.domain,
      sources: options.sources,
      values: stackValues(stack, { standing: options.standing }),
      rows: options.rows,
      onTile: options.onTile,
    },
    (tile, planes) => {
      for (const role of roles) writeTile(role, tile, planes(role), options.into[role] as Image);
    },
  );
}

/** A channel as its map stores it: scaled to the integers, ½ added so that cutting off rounds to nearest. Colour stays linear. */
function stored(b: Builder, role: BlendRole, node: DagNode, { lo, hi }: Stack): DagNode {
  if (role === 'baseColor') return node;
  const [scale, offset] = role === 'height' ? [65535 / (hi - lo), (-lo * 65535) / (hi - lo)] : role === 'normal' ? [127.5, 127.5] : [255, 0];
  const full = role === 'height' ? 65535 : 255;
  const held = b.clamp(b.add(b.multiply(node, b.constant(scale)), b.constant(offset)), b.constant(0), b.constant(full));
  return b.add(held, b.constant(0.5));
}

function writeTile(role: BlendRole, tile: Tile, planes: Float32Array[], image: Image): void {
  const { channels, width } = image;
  for (let c = 0; c < channels; c++)
    for (let y = 0; y < tile.height; y++) {
      const to = ((tile.y + y) * width + tile.x) * channels + c;
      const write = role === 'baseColor' ? writeColour : image.depth === 16 ? writeWords : writeBytes;
      write(image.data as never, to, channels, planes[c], y * tile.width, tile.width);
    }
}

// One function a kind of array, so that each is compiled for one kind.
function writeColour(data: Uint8Array, to: number, step: number, plane: Float32Array, from: number, n: number): void {
  for (let i = 0; i < n; i++, to += step) data[to] = srgbByte(plane[from + i]);
}
function writeBytes(data: Uint8Array, to: number, step: number, plane: Float32Array, from: number, n: number): void {
  for (let i = 0; i < n; i++, to += step) data[to] = plane[from + i];
}
function writeWords(data: Uint16Array, to: number, step: number, plane: Float32Array, from: number, n: number): void {
  for (let i = 0; i < n; i++, to += step) data[to] = plane[from + i];
}
