import type { Image } from '../image';
import { decodeTable, fullScale, makeImage, srgbByte } from '../image';
import type { MapSet, SurfaceFacts } from '../surface';
import { ROLE_FACTS } from '../surface';
import type { LightData } from './prefilter';
import { normalise, shadePoint } from './shade';
import type { KeyLight, Vec3 } from './sky';
import { toneMap } from './tone';

export interface FlatOptions {
  /** Side of the square picture in pixels. */
  size: number;
  /** Metres that it shows. */
  widthM: number;
  /** Its height in pixels, where it is not square. */
  rows?: number;
  key?: KeyLight;
  /** How much of the sky's light falls on it. */
  sky?: number;
}

/** A light so low that every millimetre throws a shadow. */
export const GRAZING: KeyLight = { direction: normalise([-0.94, 0.28, -0.2]), radiance: [3.4, 3.1, 2.6], spread: 0.1 };

/** Reads maps at a place in metres, neutral where one is missing. */
export function surfaceReader(maps: MapSet, facts: SurfaceFacts) {
  // Most sides are powers of two, and this is asked five times a place.
  const wrap = (i: number, n: number) => ((n & (n - 1)) === 0 ? i & (n - 1) : ((i % n) + n) % n);
  const at = (map: Image, x: number, y: number) => {
    const k = map.width / facts.sizeM;
    const down = facts.tall ? map.height / (facts.sizeM * facts.tall) : k;
    return (wrap(Math.floor(y * down), map.height) * map.width + wrap(Math.floor(x * k), map.width)) * map.channels;
  };
  const scalar = (role: 'roughness' | 'metallic' | 'occlusion' | 'height') => {
    const map = maps[role];
    const scale = map ? 1 / fullScale(map.depth) : 0;
    return (x: number, y: number) => (map ? map.data[at(map, x, y)] * scale : ROLE_FACTS[role].neutral[0]);
  };
  const colour = maps.baseColor;
  const table = colour && colour.depth !== 32 ? decodeTable(colour.depth, colour.colourSpace === 'srgb') : null;
  const normal = maps.normal;
  const height = scalar('height');
  return {
    roughness: scalar('roughness'),
    metallic: scalar('metallic'),
    open: scalar('occlusion'),
    heightM: (x: number, y: number) => (height(x, y) - facts.mid) * facts.reliefM,
    albedo(x: number, y: number, out: Vec3): Vec3 {
      const i = colour ? at(colour, x, y) : 0;
      for (let c = 0; c < 3; c++) {
        const v = colour ? colour.data[i + (colour.channels >= 3 ? c : 0)] : 0;
        out[c] = colour ? (table ? table[v] : v) : 0.5;
      }
      return out;
    },
    /** Tangent space, Y+, z rebuilt. */
    normal(x: number, y: number, out: Vec3): Vec3 {
      if (!normal) return Object.assign(out, [0, 0, 1]);
      const i = at(normal, x, y);
      const scale = 2 / fullScale(normal.depth);
      out[0] = normal.data[i] * scale - 1;
      out[1] = normal.data[i + 1] * scale - 1;
      out[2] = Math.sqrt(Math.max(0.0025, 1 - out[0] * out[0] - out[1] * out[1]));
      return out;
    },
  };
}

/** The surface seen from straight above, lit, with the shadows that its own relief throws. RGB, sRGB. */
export function renderFlat(maps: MapSet, facts: SurfaceFacts, light: LightData, options: FlatOptions): Image {
  const { size, widthM, rows = size, key = light.key, sky = 1 } = options;
  const image = makeImage({ width: size, height: rows, channels: 3, colourSpace: 'srgb' });
  const read = surfaceReader(maps, facts);
  const albedo: Vec3 = [0, 0, 0];
  const t: Vec3 = [0, 0, 0];
  const out: Vec3 = [0, 0, 0];
  const stepM = widthM / size;
  const per = (key.direction[1] / Math.hypot(key.direction[0], key.direction[2])) * stepM;
  const flat = Math.hypot(key.direction[0], key.direction[2]);
  const [ux, uz] = [key.direction[0] / flat, key.direction[2] / flat];
  const most = Math.min(200, Math.ceil(facts.reliefM / Math.max(per, 1e-6)));
  const lit = (x: number, y: number, h: number) => {
    let closed = 0;
    for (let k = 1; k <= most && closed < 1; k++)
      closed = Math.max(closed, Math.min(1, (read.heightM(x + ux * k * stepM, y + uz * k * stepM) - h - per * k) / (0.6 * stepM + per * k * 0.1)));
    return 1 - Math.max(0, closed);
  };
  for (let py = 0; py < rows; py++)
    for (let px = 0; px < size; px++) {
      const [x, y] = [(px + 0.5) * stepM, (py + 0.5) * stepM];
      read.normal(x, y, t);
      // Tangent x is world x, tangent y points up the picture: world −z; the surface faces +y.
      const n: Vec3 = [t[0], t[2], -t[1]];
      const point = {
        albedo: read.albedo(x, y, albedo),
        roughness: read.roughness(x, y),
        metallic: read.metallic(x, y),
        open: read.open(x, y) * sky,
      };
      shadePoint(light, n, [0, 1, 0], point, key, lit(x, y, read.heightM(x, y)) * 0.62, out);
      for (let c = 0; c < 3; c++) image.data[(py * size + px) * 3 + c] = srgbByte(toneMap(out[c]));
    }
  return image;
}
