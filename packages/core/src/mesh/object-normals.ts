// Normal maps in the space of their object, turned into that of tangents and back.
import type { Image } from '../image';
import { fullScale, makeImage } from '../image';
import { spreadOver } from './gbuffer';
import type { Mesh } from './mesh';
import { unit } from './mesh';
import { dilate, paddingOf } from './pad';

/** Rows that are looked at a time: what a mesh says of a place takes many numbers. */
const BAND = 64;

/** What a normal map's x, y and z are along: the object's own axes (+Y up), or tangent, bitangent and normal of each place (Y+). */
export const NORMAL_SPACES = ['object', 'tangent'] as const;
export type NormalSpace = (typeof NORMAL_SPACES)[number];

/**
 * A normal map of a mesh in the other space, of as many bits. The frame of a place is what the stage lights by: its normal of length
 * 1, the tangent at a right angle to that, their bitangent by the tangent's sign. What lies off the mesh is carried outwards from it.
 * @param page where vertices lie on the map, 0–1 with v down
 * @throws RangeError for a map that is not square or has no three channels, or of which no texel lies on the mesh
 */
export function turnedNormals(image: Image, mesh: Mesh, page: Float32Array, to: NormalSpace): Image {
  const { width: size, height, channels, depth, data } = image;
  if (size !== height) throw new RangeError(`A map of ${size} × ${height} is not square: lay it out square first`);
  if (channels < 3) throw new RangeError(`A map of ${channels} channels holds no directions: three are wanted`);
  const full = fullScale(depth);
  const out = makeImage({ width: size, height: size, channels: 3, depth, colourSpace: 'data' });
  const code = (v: number) => (depth === 32 ? v * 0.5 + 0.5 : Math.round(Math.min(1, Math.max(0, v * 0.5 + 0.5)) * full));
  const covered = new Uint8Array(size * size);
  for (let first = 0; first < size; first += BAND) {
    const end = Math.min(size, first + BAND);
    const { geometry, covered: here } = spreadOver(mesh, page, size, [first, end]);
    covered.set(here, first * size);
    for (let k = 0, i = first * size; i < end * size; k++, i++) {
      const turned = here[k]
        ? turn(geometry.normal, geometry.tangent, k, (c) => (data[i * channels + c] / full) * 2 - 1, to)
        : to === 'tangent'
          ? UP
          : NOWHERE;
      for (let c = 0; c < 3; c++) out.data[i * 3 + c] = code(turned[c]);
    }
  }
  if (!covered.includes(1)) throw new RangeError('No texel of the map lies on the mesh: its coordinates are outside 0 to 1');
  dilate(out, covered, paddingOf(size));
  return out;
}
const UP = [0, 0, 1] as const;
const NOWHERE = [0, 0, 0] as const;

/** One direction from one space into the other, at a place of the mesh. */
function turn(normal: Float32Array, tangent: Float32Array, k: number, given: (c: number) => number, to: NormalSpace): readonly number[] {
  const n = unit([normal[k * 3], normal[k * 3 + 1], normal[k * 3 + 2]]);
  const along = [tangent[k * 4], tangent[k * 4 + 1], tangent[k * 4 + 2]];
  const lean = n[0] * along[0] + n[1] * along[1] + n[2] * along[2];
  const t = unit(along.map((v, c) => v - n[c] * lean));
  const sign = tangent[k * 4 + 3] < 0 ? -1 : 1;
  const b = [n[1] * t[2] - n[2] * t[1], n[2] * t[0] - n[0] * t[2], n[0] * t[1] - n[1] * t[0]].map((v) => v * sign);
  const v = unit([given(0), given(1), given(2)]);
  if (to === 'tangent') return [t, b, n].map((axis) => axis[0] * v[0] + axis[1] * v[1] + axis[2] * v[2]);
  return [0, 1, 2].map((c) => t[c] * v[0] + b[c] * v[1] + n[c] * v[2]);
}
