import type { ColourSpace, GlslProgram, Image, MapSet, PackedPicture, PackedSet, PackedSurface, Unit } from '@pebble/core';
import {
  ROLE_FACTS,
  convertDepth,
  decodeTable,
  fullScale,
  heightChain,
  linearToSrgb,
  makeImage,
  mipChain,
  normalMipChain,
  resize,
} from '@pebble/core';

import type { MaskRegion } from './live-mask';

export * from './live-mask';

/**
 * Packs the maps of a surface into the textures of the stage at `size` × `size`, with mips: colour + opacity, normal XY +
 * roughness + occlusion, height with its spread, metallic, and emissive where there is any. Maps are Y+; missing ones take
 * their neutrals.
 */
export function packSurface(maps: MapSet, size: number): PackedSurface {
  const fit = (image: Image | undefined, depth: 8 | 16 = 8) => image && convertDepth(resize(image, size, size), depth);
  const make = (channels: number, srgb = false) => makeImage({ width: size, height: size, channels, colourSpace: srgb ? 'srgb' : 'data' });
  const colour = make(4, true);
  put(colour, [0, 1, 2], fit(maps.baseColor), ROLE_FACTS.baseColor.neutral.map(linearToSrgb));
  put(colour, [3], fit(maps.opacity), ROLE_FACTS.opacity.neutral);
  const normals = normalMipChain(withChannels(fit(maps.normal), size, 3, [0.5, 0.5, 1]));
  const rest = make(2);
  put(rest, [0], fit(maps.roughness), ROLE_FACTS.roughness.neutral);
  put(rest, [1], fit(maps.occlusion), ROLE_FACTS.occlusion.neutral);
  // Roughness and occlusion are both plain data: neither may be taken for alpha, whose mips are made alike anyway.
  const rests = mipChain(rest);
  const rare = withChannels(fit(maps.metallic), size, 1, ROLE_FACTS.metallic.neutral);
  const flat = () => makeImage({ width: size, height: size, channels: 1, depth: 16, data: new Uint16Array(size * size).fill(32768) });
  const heights = heightChain(fit(maps.height, 16) ?? flat());
  const glow = maps.emissive && withChannels(fit(maps.emissive), size, 3, ROLE_FACTS.emissive.neutral, 'srgb');
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
    ...(glow ? { glow: mipChain(glow) } : {}),
  };
}

/** One channel of a map as a mask with mips, at `size` × `size`. */
export function packMask(image: Image, channel: number, size: number): PackedPicture {
  const fit = convertDepth(resize(image, size, size), 8);
  const plane = makeImage({ width: size, height: size, channels: 1 });
  const at = Math.min(channel, fit.channels - 1);
  for (let i = 0; i < size * size; i++) plane.data[i] = fit.data[i * fit.channels + at];
  return { size, levels: mipChain(plane) };
}

/** An ID map at `size` × `size`: texels are picked, never mixed. */
export function packIds(image: Image, size: number): PackedPicture {
  const out = makeImage({ width: size, height: size, channels: 3 });
  const whole = convertDepth(image, 8);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const from = (Math.floor(((y + 0.5) * image.height) / size) * image.width + Math.floor(((x + 0.5) * image.width) / size)) * image.channels;
      for (let c = 0; c < 3; c++) out.data[(y * size + x) * 3 + c] = whole.data[from + Math.min(c, image.channels - 1)];
    }
  return { size, levels: [out] };
}

/** The map itself where it has the channels that are wanted, a new image of them else; what is missing takes what is neutral. */
function withChannels(map: Image | undefined, size: number, channels: number, neutral: readonly number[], colourSpace: ColourSpace = 'data'): Image {
  if (map?.channels === channels && map.colourSpace === colourSpace) return map;
  const out = makeImage({ width: size, height: size, channels, colourSpace });
  put(
    out,
    Array.from({ length: channels }, (_, c) => c),
    map,
    neutral,
  );
  return out;
}

/** Writes channels of a map, or what is neutral where there is none. Plain loops: these are millions of samples at every opening. */
function put({ data: to, channels: every, depth }: Image, channels: readonly number[], from: Image | undefined, neutral: readonly number[]): void {
  channels.forEach((c, k) => {
    if (!from) {
      const value = Math.round(neutral[k] * fullScale(depth));
      for (let o = c; o < to.length; o += every) to[o] = value;
      return;
    }
    const { data, channels: step } = from;
    for (let o = c, i = Math.min(k, step - 1); o < to.length; o += every, i += step) to[o] = data[i];
  });
}

function joinShape({ width, height, data: normal }: Image, { data: rest }: Image): Image {
  const out = makeImage({ width, height, channels: 4 });
  const { data } = out;
  for (let o = 0, n = 0, r = 0; o < data.length; o += 4, n += 3, r += 2) {
    data[o] = normal[n];
    data[o + 1] = normal[n + 1];
    data[o + 2] = rest[r];
    data[o + 3] = rest[r + 1];
  }
  return out;
}

/** Bytes on the GPU of one surface's textures at a size, mips included. */
export const packedBytes = (size: number): number => Math.round((size * size * (4 + 4 + 8 + 1) * 4) / 3);

/** How each texture array is kept on the GPU: sized format, format and type of what is uploaded. */
type Kept = readonly [internal: number, format: number, type: number];

/** Texture arrays of a blend: one layer a slot. */
export class SlotTextures {
  private readonly textures = new Map<Unit, WebGLTexture>();
  private readonly levels = new Map<Unit, number>();
  private curve: WebGLTexture | null = null;
  private readonly bytes = (internal: number, format: number): Kept => [internal, format, this.gl.UNSIGNED_BYTE];

  constructor(
    private readonly gl: WebGL2RenderingContext,
    { surfaces, masks, ids }: PackedSet,
    private readonly exact = false,
  ) {
    gl.getExtension('OES_texture_float_linear');
    const levels = (pick: (s: PackedSurface) => readonly { data: ArrayBufferView }[]) => surfaces.map((s) => pick(s).map((l) => l.data));
    const size = surfaces.at(0)?.size ?? 1;
    this.make(
      'colour',
      size,
      this.bytes(exact ? gl.RGBA8 : gl.SRGB8_ALPHA8, gl.RGBA),
      levels((s) => s.colour),
    );
    this.make(
      'shape',
      size,
      this.bytes(gl.RGBA8, gl.RGBA),
      levels((s) => s.shape),
    );
    this.make(
      'height',
      size,
      [gl.RG32F, gl.RG, gl.FLOAT],
      levels((s) => s.height),
    );
    this.make(
      'rare',
      size,
      this.bytes(gl.R8, gl.RED),
      levels((s) => s.rare),
    );
    // Layers of surfaces that give no light stay black.
    this.make(
      'glow',
      size,
      this.bytes(exact ? gl.RGB8 : gl.SRGB8, gl.RGB),
      levels((s) => s.glow ?? []),
    );
    this.takePictures({ masks, ids });
  }

  /** Other masks and IDs; surfaces stay. */
  takePictures({ masks, ids }: Pick<PackedSet, 'masks' | 'ids'>): void {
    const { gl } = this;
    const pictures = (list: readonly PackedPicture[]) => list.map((p) => p.levels.map((l) => l.data));
    this.make('mask', masks.at(0)?.size ?? 1, this.bytes(gl.R8, gl.RED), pictures(masks));
    // IDs are looked up: what lies between two of them is no mixture.
    this.make('id', ids.at(0)?.size ?? 1, this.bytes(gl.RGB8, gl.RGB), pictures(ids));
  }

  /** @param slots levels of each slot, the finest first; all slots have as many */
  private make(unit: Unit, size: number, [internal, format, type]: Kept, slots: readonly (readonly ArrayBufferView[])[]): void {
    const { gl, exact } = this;
    gl.deleteTexture(this.textures.get(unit) ?? null);
    this.textures.delete(unit);
    const count = slots.find((levels) => levels.length)?.length;
    if (!count) return;
    const texture = gl.createTexture() as WebGLTexture;
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, texture);
    gl.texStorage3D(gl.TEXTURE_2D_ARRAY, count, internal, size, size, slots.length);
    slots.forEach((levels, z) => this.fill(z, size, format, type, levels));
    const nearest = exact || unit === 'id';
    gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_MIN_FILTER, nearest ? gl.NEAREST_MIPMAP_NEAREST : gl.LINEAR_MIPMAP_LINEAR);
    gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_MAG_FILTER, nearest ? gl.NEAREST : gl.LINEAR);
    this.textures.set(unit, texture);
    this.levels.set(unit, count);
  }

  /** Puts the levels of one slot into the bound array. */
  private fill(slot: number, size: number, format: number, type: number, levels: readonly ArrayBufferView[]): void {
    const { gl } = this;
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    levels.forEach((data, l) => {
      const side = Math.max(1, size >> l);
      gl.texSubImage3D(gl.TEXTURE_2D_ARRAY, l, 0, 0, slot, side, side, 1, format, type, data);
    });
  }

  /** Another mask of the same size in a slot, such as one that is being painted. */
  replaceMask(slot: number, { size, levels }: PackedPicture): void {
    const { gl } = this;
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.textures.get('mask') ?? null);
    this.fill(
      slot,
      size,
      gl.RED,
      gl.UNSIGNED_BYTE,
      levels.map((l) => l.data),
    );
  }

  /** Regions of the mask in a slot that are others now. */
  patchMask(slot: number, regions: readonly MaskRegion[]): void {
    const { gl } = this;
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.textures.get('mask') ?? null);
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    for (const { level, x, y, width, height, data } of regions)
      gl.texSubImage3D(gl.TEXTURE_2D_ARRAY, level, x, y, slot, width, height, 1, gl.RED, gl.UNSIGNED_BYTE, data);
  }

  /** Binds what a program reads to units from `first` up and sets its samplers. Gives the next free unit. */
  bind(program: GlslProgram, locate: (name: string) => WebGLUniformLocation | null, first: number): number {
    const { gl } = this;
    let unit = first;
    for (const name of program.units) {
      gl.activeTexture(gl.TEXTURE0 + unit);
      gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.textures.get(name) ?? null);
      gl.uniform1i(locate(`t_${name}`), unit++);
      if (this.exact) gl.uniform1i(locate(`u_last_${name}`), (this.levels.get(name) ?? 1) - 1);
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

export interface FloatLayers {
  width: number;
  height: number;
  layers: number;
  /** How u goes on past its ends; it is held there unless stated. */
  wrap?: number;
  /** Half floats unless stated; whole ones are looked up, not smoothed. */
  internal?: number;
}
/** Layers of floats from RGBA numbers, layer by layer, smoothed in the layer. */
export function floatArray(
  gl: WebGL2RenderingContext,
  rgba: Float32Array,
  { width, height, layers, wrap = gl.CLAMP_TO_EDGE, internal = gl.RGBA16F }: FloatLayers,
): WebGLTexture {
  const texture = gl.createTexture() as WebGLTexture;
  gl.bindTexture(gl.TEXTURE_2D_ARRAY, texture);
  gl.texStorage3D(gl.TEXTURE_2D_ARRAY, 1, internal, width, height, layers);
  gl.texSubImage3D(gl.TEXTURE_2D_ARRAY, 0, 0, 0, 0, width, height, layers, gl.RGBA, gl.FLOAT, rgba);
  sampled(gl, gl.TEXTURE_2D_ARRAY, internal === gl.RGBA16F ? gl.LINEAR : gl.NEAREST, wrap);
  return texture;
}
