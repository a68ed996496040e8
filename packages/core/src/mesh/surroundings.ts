import type { GBuffer } from '../compile';
import { FLAT } from '../compile';
import { spreadOver } from './gbuffer';
import type { Mesh } from './mesh';
import { specimenColour } from './specimens';

/** What is known of places of texture space, given as pairs of coordinates. */
export interface Ground {
  along(texcoord: Float32Array): Required<Pick<GBuffer, 'position' | 'normal' | 'geomcolor' | 'geomprop'>>;
}

/** A plane with the vertex colours that specimens carry; positions are 0. */
export const FLAT_GROUND: Ground = {
  along(texcoord) {
    const count = texcoord.length / 2;
    const out = {
      position: new Float32Array(count * 3),
      normal: new Float32Array(count * 3),
      geomcolor: new Float32Array(count * 4),
      geomprop: new Float32Array(count * 3),
    };
    for (let i = 0; i < count; i++) {
      out.normal.set(FLAT.normal, i * 3);
      out.geomprop.set(FLAT.geomprop, i * 3);
      specimenColour(texcoord[i * 2], texcoord[i * 2 + 1], out.geomcolor, i * 4);
    }
    return out;
  },
};

/** Extents to every side of the first one that are looked up, and texels an extent. */
const REACH = 1;
const FINE = 96;
const SIZE = (2 * REACH + 1) * FINE;

/**
 * The mesh spread out in texture space: what lies at a coordinate is what the mesh carries there, else what it carries
 * after whole repetitions, else a plane. The flat view and the section show coverages as they are on the specimen by it.
 */
export class SpreadGround implements Ground {
  private readonly spread: ReturnType<typeof spreadOver>;

  constructor(mesh: Mesh) {
    this.spread = spreadOver(
      mesh,
      mesh.texcoord.map((t) => (t + REACH) / (2 * REACH + 1)),
      SIZE,
    );
  }

  /** The texel that a coordinate falls on; −1 off the mesh. */
  private texel(u: number, v: number): number {
    const x = Math.floor((u + REACH) * FINE);
    const y = Math.floor((v + REACH) * FINE);
    return x >= 0 && y >= 0 && x < SIZE && y < SIZE && this.spread.covered[y * SIZE + x] ? y * SIZE + x : -1;
  }

  /** The four texels around a coordinate that lie on the mesh, with their shares; none off it. */
  private around(u: number, v: number): [texel: number, share: number][] {
    const [x, y] = [(u + REACH) * FINE - 0.5, (v + REACH) * FINE - 0.5];
    const [x0, y0] = [Math.floor(x), Math.floor(y)];
    const found: [number, number][] = [];
    for (const [dx, dy] of [
      [0, 0],
      [1, 0],
      [0, 1],
      [1, 1],
    ]) {
      const at = this.texel((x0 + dx + 0.5) / FINE - REACH, (y0 + dy + 0.5) / FINE - REACH);
      const share = (dx ? x - x0 : 1 - x + x0) * (dy ? y - y0 : 1 - y + y0);
      if (at >= 0 && share > 0) found.push([at, share]);
    }
    const total = found.reduce((sum, [, share]) => sum + share, 0);
    return found.map(([at, share]) => [at, share / total]);
  }

  along(texcoord: Float32Array): ReturnType<Ground['along']> {
    const out = FLAT_GROUND.along(texcoord);
    const { geometry } = this.spread;
    const carried = [
      ['position', 3],
      ['normal', 3],
      ['geomprop', 3],
      ['geomcolor', 4],
    ] as const;
    for (let i = 0; i < texcoord.length / 2; i++) {
      const [u, v] = [texcoord[i * 2], texcoord[i * 2 + 1]];
      if (this.texel(u, v) < 0 && this.texel(u - Math.floor(u), v - Math.floor(v)) < 0) continue;
      const near = this.texel(u, v) < 0 ? this.around(u - Math.floor(u), v - Math.floor(v)) : this.around(u, v);
      for (const [name, width] of carried)
        for (let c = 0; c < width; c++) out[name][i * width + c] = near.reduce((sum, [at, share]) => sum + share * geometry[name][at * width + c], 0);
      // Parts have numbers, between which there is nothing.
      out.geomprop[i * 3 + 2] = Math.round(out.geomprop[i * 3 + 2]);
    }
    return out;
  }
}

/** The flat's mesh with what a ground knows of its places; it is drawn by its texture coordinates. */
export const onGround = (flat: Mesh, ground: Ground): Mesh => ({ ...flat, ...ground.along(flat.texcoord) });

/**
 * What the flat view knows of the first extent, for evaluating it: a band of `size` texels a row, what the mesh carries
 * there, and a plane off it.
 */
export function extentGround(mesh: Mesh, size: number, [top, bottom]: readonly [number, number]): ReturnType<Ground['along']> {
  const { geometry, covered } = spreadOver(mesh, mesh.texcoord, size, [top, bottom]);
  const { position, normal, geomcolor, geomprop } = geometry;
  const at = new Float32Array(2);
  for (let i = 0; i < covered.length; i++) {
    if (covered[i]) continue;
    at.set([((i % size) + 0.5) / size, (top + Math.floor(i / size) + 0.5) / size]);
    geomcolor.set(FLAT_GROUND.along(at).geomcolor, i * 4);
  }
  return { position, normal, geomcolor, geomprop };
}
