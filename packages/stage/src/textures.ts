import type { GlslProgram, Image, MapSet, PackedSurface, Unit } from '@pebble/core';
import {
  ROLE_FACTS,
  convertDepth,
  decodeTable,
  fullScale,
  heightChain,
  linearToSrgb,
  makeImage,
  mipChain,
  mipCount,
  normalMipChain,
  resize,
} from '@pebble/core';

/**
 * Packs the maps of a surface into the four textures of the stage at `size` × `size`, with mips: colour + opacity,
 * normal XY + roughness + occlusion, height with its spread, metallic. Maps are Y+; missing ones take their neutrals.
 */
export function packSurface(maps: MapSet, size: number): PackedSurface {
  const fit = (image: Image | undefined, depth: 8 | 16 = 8) => image && convertDepth(resize(image, size, size), depth);
  const make = (channels: number, srgb = false) => makeImage({ width: size, height: size, channels, colourSpace: srgb ? 'srgb' : 'data' });
  const colour = make(4, true);
  write(colour, [0, 1, 2], fit(maps.baseColor), ROLE_FACTS.baseColor.neutral.map(linearToSrgb));
  write(colour, [3], fit(maps.opacity), ROLE_FACTS.opacity.neutral);
  const normal = make(3);
  write(normal, [0, 1, 2], fit(maps.normal), [0.5, 0.5, 1]);
  const normals = normalMipChain(normal);
  const rest = make(2);
  write(rest, [0], fit(maps.roughness), ROLE_FACTS.roughness.neutral);
  write(rest, [1], fit(maps.occlusion), ROLE_FACTS.occlusion.neutral);
  // Roughness and occlusion are both plain data: neither may be taken for alpha, whose mips are made alike anyway.
  const rests = mipChain(rest);
  const rare = make(1);
  write(rare, [0], fit(maps.metallic), ROLE_FACTS.metallic.neutral);
  const flat = makeImage({ width: size, height: size, channels: 1, depth: 16, data: new Uint16Array(size * size).fill(32768) });
  const heights = heightChain(fit(maps.height, 16) ?? flat);
  return {
    size,
    colour: mipChain(colour),
    shape: normals.map((n, l) => joinShape(n, rests[l])),
    height: heights.map(({ width, height, mean, spread }) => {
      const data = new Float32Array(width * height * 2);
      for (let i = 0; i < mean.length; i++) {
        data[i * 2] = mean[i];
        data[i * 2 + 1] = spread[i];
      }
      return { width, height, data };
    }),
    rare: mipChain(rare),
  };
}

function write(out: Image, channels: number[], from: Image | undefined, neutral: readonly number[]): void {
  const n = out.width * out.height;
  channels.forEach((c, k) => {
    const value = Math.round(neutral[k] * fullScale(out.depth));
    const stride = from?.channels ?? 0;
    for (let i = 0; i < n; i++) out.data[i * out.channels + c] = from ? from.data[i * stride + Math.min(k, stride - 1)] : value;
  });
}

function joinShape(normal: Image, rest: Image): Image {
  const out = makeImage({ width: normal.width, height: normal.height, channels: 4 });
  for (let i = 0; i < normal.width * normal.height; i++) {
    out.data[i * 4] = normal.data[i * 3];
    out.data[i * 4 + 1] = normal.data[i * 3 + 1];
    out.data[i * 4 + 2] = rest.data[i * 2];
    out.data[i * 4 + 3] = rest.data[i * 2 + 1];
  }
  return out;
}

/** Bytes on the GPU of one surface's textures at a size, mips included. */
export const packedBytes = (size: number): number => Math.round((size * size * (4 + 4 + 8 + 1) * 4) / 3);

/** Texture arrays of a blend: one layer a slot. */
export class SlotTextures {
  private readonly textures = new Map<Unit, WebGLTexture>();
  private curve: WebGLTexture | null = null;
  readonly levels: number;

  constructor(
    private readonly gl: WebGL2RenderingContext,
    slots: readonly PackedSurface[],
    private readonly exact = false,
  ) {
    const size = slots[0].size;
    this.levels = mipCount(size, size);
    gl.getExtension('OES_texture_float_linear');
    const colour = exact ? gl.RGBA8 : gl.SRGB8_ALPHA8;
    this.make('colour', slots, colour, gl.RGBA, gl.UNSIGNED_BYTE, (s, l) => s.colour[l].data);
    this.make('shape', slots, gl.RGBA8, gl.RGBA, gl.UNSIGNED_BYTE, (s, l) => s.shape[l].data);
    this.make('height', slots, gl.RG32F, gl.RG, gl.FLOAT, (s, l) => s.height[l].data);
    this.make('rare', slots, gl.R8, gl.RED, gl.UNSIGNED_BYTE, (s, l) => s.rare[l].data);
  }

  private make(
    unit: Unit,
    slots: readonly PackedSurface[],
    internal: number,
    format: number,
    type: number,
    pick: (s: PackedSurface, level: number) => ArrayBufferView,
  ): void {
    const { gl, exact } = this;
    const texture = gl.createTexture() as WebGLTexture;
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, texture);
    gl.texStorage3D(gl.TEXTURE_2D_ARRAY, this.levels, internal, slots[0].size, slots[0].size, slots.length);
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    slots.forEach((slot, z) => {
      for (let l = 0; l < this.levels; l++) {
        const side = Math.max(1, slot.size >> l);
        gl.texSubImage3D(gl.TEXTURE_2D_ARRAY, l, 0, 0, z, side, side, 1, format, type, pick(slot, l));
      }
    });
    gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_MIN_FILTER, exact ? gl.NEAREST_MIPMAP_NEAREST : gl.LINEAR_MIPMAP_LINEAR);
    gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_MAG_FILTER, exact ? gl.NEAREST : gl.LINEAR);
    this.textures.set(unit, texture);
  }

  /** Binds what a program reads to units from `first` up and sets its samplers. Gives the next free unit. */
  bind(program: GlslProgram, locate: (name: string) => WebGLUniformLocation | null, first: number): number {
    const { gl } = this;
    let unit = first;
    for (const name of program.units) {
      gl.activeTexture(gl.TEXTURE0 + unit);
      gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.textures.get(name) as WebGLTexture);
      gl.uniform1i(locate(`t_${name}`), unit++);
      if (this.exact) gl.uniform1i(locate(`u_last_${name}`), this.levels - 1);
    }
    if (this.exact && program.units.length) {
      gl.activeTexture(gl.TEXTURE0 + unit);
      gl.bindTexture(gl.TEXTURE_2D, (this.curve ??= floatTexture(gl, 256, 1, gl.R32F, gl.RED, decodeTable(8, true))));
      gl.uniform1i(locate('t_curve'), unit++);
    }
    return unit;
  }

  dispose(): void {
    this.textures.forEach((t) => this.gl.deleteTexture(t));
    if (this.curve) this.gl.deleteTexture(this.curve);
  }
}

/** How the bound texture is read: one filter, v held at its ends, u as `wrap` says. */
function sampled(gl: WebGL2RenderingContext, target: number, filter: number, wrap: number): void {
  gl.texParameteri(target, gl.TEXTURE_MIN_FILTER, filter);
  gl.texParameteri(target, gl.TEXTURE_MAG_FILTER, filter);
  gl.texParameteri(target, gl.TEXTURE_WRAP_S, wrap);
  gl.texParameteri(target, gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE);
}

/** A float texture without mips, nearest. */
export function floatTexture(
  gl: WebGL2RenderingContext,
  width: number,
  height: number,
  internal: number,
  format: number,
  data: Float32Array,
): WebGLTexture {
  const texture = gl.createTexture() as WebGLTexture;
  gl.bindTexture(gl.TEXTURE_2D, texture);
  gl.texStorage2D(gl.TEXTURE_2D, 1, internal, width, height);
  gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
  gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, width, height, format, gl.FLOAT, data);
  sampled(gl, gl.TEXTURE_2D, gl.NEAREST, gl.CLAMP_TO_EDGE);
  return texture;
}

/** Layers of half floats from RGBA numbers, layer by layer, smoothed in the layer; `wrap` is how u goes on past its ends. */
export function floatArray(
  gl: WebGL2RenderingContext,
  width: number,
  height: number,
  layers: number,
  rgba: Float32Array,
  wrap: number,
): WebGLTexture {
  const texture = gl.createTexture() as WebGLTexture;
  gl.bindTexture(gl.TEXTURE_2D_ARRAY, texture);
  gl.texStorage3D(gl.TEXTURE_2D_ARRAY, 1, gl.RGBA16F, width, height, layers);
  gl.texSubImage3D(gl.TEXTURE_2D_ARRAY, 0, 0, 0, 0, width, height, layers, gl.RGBA, gl.FLOAT, rgba);
  sampled(gl, gl.TEXTURE_2D_ARRAY, gl.LINEAR, wrap);
  return texture;
}
