import type { InputPlanes, MeshInput } from '../geometry';
import { MESH_INPUTS, flatPlane, inputFacts, inputWidth, settle } from '../geometry';
import type { MeshBuffer } from './gbuffer';
import { spreadOver } from './gbuffer';
import { fillTriangle } from './raster';
import type { Mesh } from './mesh';
import { specimenColour } from './specimens';

/** What is looked up by texture coordinate: all that a mesh carries but the coordinate itself. */
type Carried = Exclude<MeshInput, 'texcoord'>;
const CARRIED_INPUTS = MESH_INPUTS.filter((name): name is Carried => name !== 'texcoord');
const inputsBy = (of: (name: Carried) => Float32Array) => Object.fromEntries(CARRIED_INPUTS.map((name) => [name, of(name)])) as InputPlanes<Carried>;

/** What is known of places of texture space, given as pairs of coordinates. */
export interface Ground {
  along(texcoord: Float32Array): InputPlanes<Carried>;
  /** One of the things that are carried. */
  alongOne(name: Carried, texcoord: Float32Array): Float32Array;
}

/** What a plane carries, with the vertex colours that specimens carry; positions are 0. */
function planeCarries(name: Carried, texcoord: Float32Array): Float32Array {
  if (name !== 'geomcolor') return flatPlane(name, texcoord);
  let made = flatColours.get(texcoord);
  if (!made) {
    made = new Float32Array(texcoord.length * 2);
    for (let i = 0; i < texcoord.length / 2; i++) specimenColour(texcoord[i * 2], texcoord[i * 2 + 1], made, i * 4);
    flatColours.set(texcoord, made);
  }
  return made.slice();
}
/** Noise takes its time: those of coordinates that are asked for again are remembered as long as they are. */
const flatColours = new WeakMap<Float32Array, Float32Array>();

/** A plane. */
export const FLAT_GROUND: Ground = { along: (texcoord) => inputsBy((name) => planeCarries(name, texcoord)), alongOne: planeCarries };

/** What is not the same all over a plane. */
const PLACED = CARRIED_INPUTS.filter((name) => name === 'geomcolor' || inputFacts(name).flat === 'texcoord');

/** Extents to every side of the first one that are looked up, and texels an extent. */
const REACH = 1;
const FINE = 96;
const SIZE = (2 * REACH + 1) * FINE;

/** Which triangle lies on each texel of texture space (−1 none), and the shares of its first two corners. */
interface Spread {
  triangle: Int32Array;
  shares: Float32Array;
  lookups: WeakMap<Float32Array, Lookup>;
}
/** Of coordinates: whether each lies on the mesh, and the four texels around it with their shares. */
interface Lookup {
  on: Uint8Array;
  texels: Uint32Array;
  shares: Float64Array;
}

/**
 * The mesh spread out in texture space: what lies at a coordinate is what the mesh carries there, else what it carries
 * after whole repetitions, else a plane. The flat view and the section show coverages as they are on the specimen by it.
 */
export class SpreadGround implements Ground {
  private readonly spread: Spread;
  private readonly carried = new Map<Carried, Float32Array>();

  /** @param known the same mesh with other vertex colours: where it lies is known already */
  constructor(
    private readonly mesh: Mesh,
    known?: SpreadGround,
  ) {
    this.spread = known?.spread ?? spreadOut(mesh);
    for (const [name, values] of known?.carried ?? []) if (mesh[name] === known?.mesh[name]) this.carried.set(name, values);
  }

  /** What every texel carries, worked out when it is first asked for. */
  private values(name: Carried, width: number): Float32Array {
    let values = this.carried.get(name);
    if (!values) this.carried.set(name, (values = this.gather(name, width)));
    return values;
  }
  private gather(name: Carried, width: number): Float32Array {
    const out = new Float32Array(SIZE * SIZE * width);
    const from = this.mesh[name];
    const { index } = this.mesh;
    const { triangle, shares } = this.spread;
    for (let at = 0; at < triangle.length; at++) {
      const t = triangle[at] * 3;
      if (t < 0) continue;
      if (!from) {
        const place = Float32Array.of(((at % SIZE) + 0.5) / FINE - REACH, (Math.floor(at / SIZE) + 0.5) / FINE - REACH);
        out.set(planeCarries(name, place), at * width);
        continue;
      }
      const [wa, wb] = [shares[at * 2], shares[at * 2 + 1]];
      for (let c = 0; c < width; c++)
        out[at * width + c] = from[index[t] * width + c] * wa + from[index[t + 1] * width + c] * wb + from[index[t + 2] * width + c] * (1 - wa - wb);
    }
    return settle(name, out);
  }

  /** The texel that a coordinate falls on; −1 off the mesh. */
  private texel(u: number, v: number): number {
    const x = Math.floor((u + REACH) * FINE);
    const y = Math.floor((v + REACH) * FINE);
    return x >= 0 && y >= 0 && x < SIZE && y < SIZE && this.spread.triangle[y * SIZE + x] >= 0 ? y * SIZE + x : -1;
  }

  /** Writes the four texels around a coordinate that lie on the mesh, with their shares, from entry `at` on. */
  private around(u: number, v: number, into: Lookup, at: number): void {
    const [x, y] = [(u + REACH) * FINE - 0.5, (v + REACH) * FINE - 0.5];
    const [x0, y0] = [Math.floor(x), Math.floor(y)];
    let total = 0;
    for (let k = 0; k < 4; k++) {
      const [dx, dy] = [k & 1, k >> 1];
      const texel = this.texel((x0 + dx + 0.5) / FINE - REACH, (y0 + dy + 0.5) / FINE - REACH);
      const share = texel < 0 ? 0 : (dx ? x - x0 : 1 - x + x0) * (dy ? y - y0 : 1 - y + y0);
      into.texels[at + k] = Math.max(0, texel);
      into.shares[at + k] = share;
      total += share;
    }
    for (let k = 0; k < 4; k++) into.shares[at + k] /= total;
  }

  /** Where coordinates fall; those of the flat are asked for again at every stroke, and stay. */
  private lookup(texcoord: Float32Array): Lookup {
    let found = this.spread.lookups.get(texcoord);
    if (found) return found;
    const count = texcoord.length / 2;
    found = { on: new Uint8Array(count), texels: new Uint32Array(count * 4), shares: new Float64Array(count * 4) };
    for (let i = 0; i < count; i++) {
      const [u, v] = [texcoord[i * 2], texcoord[i * 2 + 1]];
      const [ru, rv] = [u - Math.floor(u), v - Math.floor(v)];
      const here = this.texel(u, v) >= 0;
      if (!here && this.texel(ru, rv) < 0) continue;
      found.on[i] = 1;
      if (here) this.around(u, v, found, i * 4);
      else this.around(ru, rv, found, i * 4);
    }
    this.spread.lookups.set(texcoord, found);
    return found;
  }

  /** One of the things that are carried, at coordinates; off the mesh what the plane carries. */
  alongOne(name: Carried, texcoord: Float32Array, out = planeCarries(name, texcoord)): Float32Array {
    const { on, texels, shares } = this.lookup(texcoord);
    const width = inputWidth(name);
    const from = this.values(name, width);
    for (let i = 0; i < on.length; i++) {
      if (!on[i]) continue;
      for (let c = 0; c < width; c++) {
        let sum = 0;
        for (let k = i * 4; k < i * 4 + 4; k++) sum += shares[k] * from[texels[k] * width + c];
        out[i * width + c] = sum;
      }
    }
    return settle(name, out);
  }

  along = (texcoord: Float32Array): InputPlanes<Carried> => inputsBy((name) => this.alongOne(name, texcoord));
}

/** Where triangles overlap in texture space the last one stays. */
function spreadOut({ texcoord, index }: Mesh): Spread {
  const triangle = new Int32Array(SIZE * SIZE).fill(-1);
  const shares = new Float32Array(SIZE * SIZE * 2);
  const window = { x0: 0, y0: 0, x1: SIZE, y1: SIZE };
  for (let t = 0; t < index.length; t += 3) {
    const corners = [0, 1, 2].flatMap((k) => [(texcoord[index[t + k] * 2] + REACH) * FINE, (texcoord[index[t + k] * 2 + 1] + REACH) * FINE]);
    fillTriangle(corners, window, (x, y, wa, wb) => {
      triangle[y * SIZE + x] = t / 3;
      shares[(y * SIZE + x) * 2] = wa;
      shares[(y * SIZE + x) * 2 + 1] = wb;
    });
  }
  return { triangle, shares, lookups: new WeakMap() };
}

/** The flat's mesh with what a ground knows of its places; it is drawn by its texture coordinates. */
export const onGround = (flat: Mesh, ground: Ground): Mesh => ({ ...flat, ...ground.along(flat.texcoord) });

/**
 * What the flat view knows of the first extent, for evaluating it: a band of `size` texels a row, what the mesh carries
 * there, and a plane off it.
 */
export function extentGround(mesh: Mesh, size: number, [top, bottom]: readonly [number, number]): Pick<MeshBuffer, 'geometry' | 'footprints'> {
  const { geometry, covered, footprints } = spreadOver(mesh, mesh.texcoord, size, [top, bottom]);
  const { texcoord, ...carried } = geometry;
  const at = new Float32Array(2);
  for (let i = 0; i < covered.length; i++) {
    at.set([((i % size) + 0.5) / size, (top + Math.floor(i / size) + 0.5) / size]);
    texcoord.set(at, i * 2);
    if (covered[i]) continue;
    for (const name of PLACED) carried[name].set(planeCarries(name, at), i * inputWidth(name));
  }
  return { geometry, footprints };
}
