import type { RecipeFile } from '../document';
import type { Image } from '../image';
import { fullScale, makeSamples, mipChain, mipCount, normalMipChain, quantise, resize } from '../image';
import type { MapSet, Role } from '../surface';
import type { PackTarget } from './route';
import { packChannels } from './route';

/** What the smaller levels of a map hang on besides itself. */
export interface MipContext {
  /** The normal map that roughness lies under: what levels of it lose in slopes becomes roughness. */
  normal?: Image;
  /** Opacity below which a cut-out is not drawn, 0–1: every level then covers as much as the first. */
  cutoff?: number;
}

/**
 * A full mip chain by what a map holds: colour in linear light, directions of unit length, roughness widened by the slopes
 * that the normal's levels have lost, cut-outs that keep their cover, IDs that are never mixed, everything else area-true.
 */
export function roleMipChain(role: Role, image: Image, { normal, cutoff }: MipContext = {}): Image[] {
  if (role === 'normal') return normalMipChain(image);
  if (role === 'id') return idMipChain(image);
  if (role === 'roughness' && normal) return roughnessMipChain(image, normal);
  if (role === 'opacity' && cutoff !== undefined) return cutoutMipChain(image, cutoff);
  return mipChain(image);
}

/** Most of four neighbours, the first of them where all differ: a level holds no value that the image does not. */
export function idMipChain(image: Image): Image[] {
  const levels = [image];
  for (let l = 1; l < mipCount(image.width, image.height); l++) levels.push(commonest(levels[l - 1]));
  return levels;
}

function commonest(above: Image): Image {
  const { channels, depth } = above;
  const [width, height] = [Math.max(1, above.width >> 1), Math.max(1, above.height >> 1)];
  const data = makeSamples(depth, width * height * channels);
  const right = above.width > 1 ? channels : 0;
  const below = above.height > 1 ? above.width * channels : 0;
  const same = (a: number, b: number) => {
    for (let c = 0; c < channels; c++) if (above.data[a + c] !== above.data[b + c]) return false;
    return true;
  };
  for (let y = 0, o = 0; y < height; y++)
    for (let x = 0; x < width; x++, o += channels) {
      const at = (2 * y * above.width + 2 * x) * channels;
      const places = [at, at + right, at + below, at + right + below];
      let best = at;
      let most = 0;
      for (const p of places) {
        const n = places.filter((q) => same(p, q)).length;
        if (n > most) [best, most] = [p, n];
      }
      for (let c = 0; c < channels; c++) data[o + c] = above.data[best + c];
    }
  return { ...above, width, height, data };
}

/** Slopes past which a normal lies too flat to be told: a slope of 10 is 84°. */
const STEEPEST = 10;

/**
 * Roughness whose levels carry the slopes that levels of the normal map lose by averaging. GGX of width `α = roughness²` has
 * slopes of variance `α²/2` an axis, and variances of what is added up add: `α'² = α² + 2·σ²`, `σ²` the mean of both axes'
 * slope variances within the texel, and `α²` the mean over it. Sources: Olano and Baker, LEAN mapping (2010), for moments of
 * slopes; Walter et al., Microfacet models (2007), for GGX. Sides of the normal map may differ; it is read at the same share.
 */
export function roughnessMipChain(roughness: Image, normal: Image): Image[] {
  const { channels, depth } = roughness;
  const chain = mipChain(roughness);
  const width = roughness.width;
  const height = roughness.height;
  // What widths add up by.
  const moments = new Float32Array(width * height);
  const slopes = slopesOf(normal);
  const full = fullScale(depth);
  for (let i = 0; i < moments.length; i++) moments[i] = (roughness.data[i * channels] / full) ** 4;
  const lost = slopeVariance(slopes, normal.width, normal.height);
  const alpha = mipChain({ width, height, channels: 1, depth: 32, colourSpace: 'data', data: moments });
  return chain.map((level, l) => {
    if (l === 0) return level;
    const data = level.data.slice();
    const variance = lost[Math.min(lost.length - 1, levelOf(lost, level.width, level.height))];
    for (let y = 0, i = 0; y < level.height; y++)
      for (let x = 0; x < level.width; x++, i++) {
        const [u, v] = [Math.floor(((x + 0.5) / level.width) * variance.width), Math.floor(((y + 0.5) / level.height) * variance.height)];
        const widened = alpha[l].data[i] + 2 * variance.of[v * variance.width + u];
        const value = Math.min(1, widened ** 0.25);
        for (let c = 0; c < Math.min(channels, 3); c++) data[i * channels + c] = quantise(value, depth);
      }
    return { ...level, data };
  });
}

/** Of a chain of variances the level as large as another image, or the next smaller one. */
const levelOf = (chain: readonly { width: number; height: number }[], width: number, height: number): number =>
  Math.max(
    0,
    chain.findIndex((level) => level.width <= width && level.height <= height),
  );

/** x and y slope of every texel: `−n.x/n.z`, `−n.y/n.z`. */
function slopesOf({ width, height, channels, depth, data }: Image): Float32Array {
  const out = new Float32Array(width * height * 2);
  const full = fullScale(depth);
  for (let i = 0, o = 0; i < data.length; i += channels, o += 2) {
    const [x, y] = [(data[i] / full) * 2 - 1, (data[i + 1] / full) * 2 - 1];
    const z = channels >= 3 ? (data[i + 2] / full) * 2 - 1 : Math.sqrt(Math.max(0, 1 - x * x - y * y));
    const inv = 1 / Math.max(z, 1e-3);
    out[o] = Math.max(-STEEPEST, Math.min(STEEPEST, -x * inv));
    out[o + 1] = Math.max(-STEEPEST, Math.min(STEEPEST, -y * inv));
  }
  return out;
}

/** The variance of slopes within each texel of each level, the mean of both axes. */
function slopeVariance(slopes: Float32Array, width: number, height: number): { width: number; height: number; of: Float32Array }[] {
  const moments = new Float32Array(width * height * 3);
  for (let i = 0; i < width * height; i++) {
    const [x, y] = [slopes[i * 2], slopes[i * 2 + 1]];
    moments.set([x, y, x * x + y * y], i * 3);
  }
  return mipChain({ width, height, channels: 3, depth: 32, colourSpace: 'data', data: moments }).map((level) => ({
    width: level.width,
    height: level.height,
    of: Float32Array.from({ length: level.width * level.height }, (_, i) => {
      const [x, y, squares] = level.data.subarray(i * 3, i * 3 + 3);
      return Math.max(0, (squares - x * x - y * y) / 2);
    }),
  }));
}

/** Steps of the search for a scale; each halves what is left. */
const STEPS = 24;

/**
 * Cut-outs whose levels cover the share that the first one covers: each level's opacity is scaled so that as many texels lie
 * at or above the cut-off. Source: Castaño, Computing alpha mipmaps (2010). The last channel is the opacity.
 */
export function cutoutMipChain(image: Image, cutoff: number): Image[] {
  const { channels, depth } = image;
  const full = fullScale(depth);
  const last = channels - 1;
  const covered = (level: Image, scale: number) => {
    let n = 0;
    for (let i = last; i < level.data.length; i += channels) if (quantise((level.data[i] / full) * scale, depth) >= cutoff * full) n++;
    return n / (level.width * level.height);
  };
  const wanted = covered(image, 1);
  return mipChain(image).map((level, l) => {
    if (l === 0) return level;
    let [lo, hi] = [0, 1 / Math.max(1 / full, cutoff) + 1];
    for (let k = 0; k < STEPS; k++) {
      const mid = (lo + hi) / 2;
      if (covered(level, mid) < wanted) lo = mid;
      else hi = mid;
    }
    // Of the two that lie on either side of what is wanted the nearer one.
    const scale = Math.abs(covered(level, lo) - wanted) < Math.abs(covered(level, hi) - wanted) ? lo : hi;
    const data = level.data.slice();
    for (let i = last; i < data.length; i += channels) data[i] = quantise((level.data[i] / full) * scale, depth);
    return { ...level, data };
  });
}

/** What is packed into a file with its smaller levels. */
export interface LevelTarget extends PackTarget {
  /** Opacity below which a cut-out is not drawn: levels keep their cover. */
  cutoff?: number;
}

/**
 * A packed file with all of its smaller levels, each channel by what it holds. Roughness is widened by what the normal map of the
 * same source loses, whether that is packed with it or not.
 * @throws PackError naming the role or channel that is missing
 */
export function packLevels(channels: RecipeFile['channels'], maps: MapSet, target: LevelTarget): Image[] {
  const { width, height, cutoff } = target;
  const roles = [...new Set(Object.values(channels).flatMap((r) => (r.from === 'map' ? [r.role] : [])))];
  const sized = (role: Role) => maps[role] && resize(maps[role], width, height);
  const normal = roles.includes('roughness') ? sized('normal') : undefined;
  const chains = Object.fromEntries(
    roles.flatMap((role) => {
      const image = role === 'normal' && normal ? normal : sized(role);
      return image ? [[role, roleMipChain(role, image, { normal, cutoff })]] : [];
    }),
  ) as Partial<Record<Role, Image[]>>;
  return Array.from({ length: mipCount(width, height) }, (_, l) => {
    const level = Object.fromEntries(Object.entries(chains).map(([role, chain]) => [role, chain[l]])) as MapSet;
    return packChannels(channels, level, { ...target, width: Math.max(1, width >> l), height: Math.max(1, height >> l) });
  });
}
